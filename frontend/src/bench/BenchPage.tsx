import { useCallback, useState } from "react";
import { useTitle } from "../controls/useTitle";
import { useShotDrop } from "../sources/useShotDrop";
import { BuildLine } from "./buildline/BuildLine";
import { CardPanel } from "./card/CardPanel";
import { CommentsPanel } from "./comments/CommentsPanel";
import { Header } from "./Header";
import { HistoryPanel } from "./history/HistoryPanel";
import { KeySheet } from "./KeySheet";
import { MattePanel } from "./matte/MattePanel";
import { useSession, useSessionParts } from "./session";
import { documentOf } from "./shotParts";
import { TimeRuler } from "./time/TimeRuler";
import { Tray } from "./tray/Tray";
import { useKeys } from "./useKeys";
import { LostShot, useShot } from "./useShot";
import { Viewer } from "./viewer/Viewer";

/** What is said of the shot, its steps, the open matte, else the open card. */
function RightPanel() {
  const { shot, openMatte, aside } = useSessionParts("shot", "openMatte", "aside");
  if (aside === "comments") return <CommentsPanel />;
  if (aside === "history") return <HistoryPanel />;
  const matte = shot && openMatte ? documentOf(shot).mattes?.[openMatte] : undefined;
  return matte && openMatte ? <MattePanel key={openMatte} id={openMatte} matte={matte} /> : <CardPanel />;
}

/** The main screen: everything for one shot happens here. */
export function BenchPage() {
  const problem = useShot();
  const [sheet, setSheet] = useState(false);
  const showSheet = useCallback(() => setSheet(true), []);
  useKeys(showSheet);
  const { add, dialogs } = useShotDrop();
  const name = useSession((s) => s.shot?.name);
  useTitle(name);
  if (problem) return <LostShot problem={problem} />;
  return (
    <div className="flex h-full flex-col">
      <Header onKeys={showSheet} place="bench" />
      <div className="flex min-h-0 flex-1">
        <Tray onAdd={add} />
        <main className="flex min-w-0 flex-1 flex-col">
          <Viewer />
          <TimeRuler />
        </main>
        <RightPanel />
      </div>
      <BuildLine onAddSource={add} />
      {dialogs}
      <KeySheet open={sheet} onOpen={setSheet} />
    </div>
  );
}
