import "@fontsource-variable/archivo";
import "@fontsource/ibm-plex-mono/400.css";
import "@fontsource/ibm-plex-mono/500.css";
import "./styles/index.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Route, Routes } from "react-router";
import { Toaster } from "sonner";
import { BenchPage } from "./bench/BenchPage";
import { HandOffPage } from "./handoff/HandOffPage";
import { PassesPage } from "./passes/PassesPage";
import { Door } from "./people/Door";
import { PeoplePage } from "./people/PeoplePage";
import { QueuePage } from "./queue/QueuePage";
import { ShotsPage } from "./shots/ShotsPage";
import { DropLayer } from "./takein/DropLayer";
import { TakeInPage } from "./takein/TakeInPage";

const NOTICE = {
  toast: "rounded-sm! border-line! bg-panel! text-text! font-sans! text-[12.5px]! shadow-xl!",
  actionButton: "rounded-sm! bg-control! text-verdigris! font-semibold!",
  closeButton: "bg-control! border-line! text-text!",
  error: "border-coral/60!",
  warning: "border-amber/60!",
};
const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } });

createRoot(document.getElementById("root") as HTMLElement).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <Tooltip.Provider delayDuration={350}>
        <BrowserRouter>
          <Door>
            <Routes>
              <Route path="/" element={<ShotsPage />} />
              <Route path="/shows/:showId" element={<ShotsPage />} />
              <Route path="/people" element={<PeoplePage />} />
              <Route path="/queue" element={<QueuePage />} />
              <Route path="/shots/:shotId" element={<BenchPage />} />
              <Route path="/shots/:shotId/hand-off" element={<HandOffPage />} />
              <Route path="/shots/:shotId/passes" element={<PassesPage />} />
              <Route path="/take-in" element={<TakeInPage />} />
              <Route path="*" element={<ShotsPage />} />
            </Routes>
            <DropLayer />
          </Door>
        </BrowserRouter>
        <Toaster
          theme="dark"
          position="bottom-right"
          offset={{ bottom: 152, right: 12 }}
          visibleToasts={5}
          toastOptions={{ duration: 6000, classNames: NOTICE }}
        />
      </Tooltip.Provider>
    </QueryClientProvider>
  </StrictMode>,
);
