import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { Header } from "../bench/Header";
import { useSession } from "../bench/session";
import { LostShot, useShot } from "../bench/useShot";
import { useTitle } from "../controls/useTitle";
import { includes } from "../people/useMe";
import { useShotDrop } from "../sources/useShotDrop";
import { OrderForm } from "./OrderForm";
import { RenderRow } from "./RenderRow";

/** Rendering and delivering: what to write, and the queue with its progress. */
export function HandOffPage() {
  const problem = useShot();
  const shot = useSession((s) => s.shot);
  const renders = useQuery({
    queryKey: ["renders", shot?.id],
    queryFn: () => answer(api.GET("/api/shots/{shot_id}/renders", { params: { path: { shot_id: shot?.id ?? 0 } } })),
    enabled: shot !== null,
    refetchInterval: (q) =>
      q.state.data?.renders.some((r) => r.state === "queued" || r.state === "running") ? 500 : 4000,
  });
  const { dialogs } = useShotDrop();
  useTitle("Hand-off", shot?.name);
  if (problem) return <LostShot problem={problem} />;
  return (
    <div className="flex h-full flex-col">
      <Header place="hand-off" />
      <div className="flex min-h-0 flex-1">
        <aside className="w-[300px] shrink-0 overflow-y-auto border-r border-line bg-panel p-4" aria-label="Order">
          {shot && includes(shot.role, "hand off") && <OrderForm />}
          {shot && !includes(shot.role, "hand off") && (
            <p className="text-quiet">
              In {shot.show} you may {shot.role === "look" ? "look" : "look and work"}, but not hand off: ask one of its
              owners for that. What was rendered can be looked at on the right.
            </p>
          )}
        </aside>
        <main className="min-w-0 flex-1 overflow-y-auto p-6" aria-label="Renders">
          <h2 className="mb-3 text-[15px] font-semibold">Renders</h2>
          {renders.data?.renders.length === 0 && (
            <p className="max-w-md text-quiet">
              Nothing has been rendered from this shot. Choose the frames and the format on the left: the files are
              written in the background and can be fetched here.
            </p>
          )}
          <div className="flex flex-col gap-2">
            {renders.data?.renders.map((render) => (
              <RenderRow key={render.id} render={render} />
            ))}
          </div>
        </main>
      </div>
      {dialogs}
    </div>
  );
}
