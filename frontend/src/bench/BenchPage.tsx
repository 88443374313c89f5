import { useCallback, useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { BuildLine } from "./buildline/BuildLine";
import { CardPanel } from "./card/CardPanel";
import { Header } from "./Header";
import { KeySheet } from "./KeySheet";
import { MattePanel } from "./matte/MattePanel";
import { documentOf, useSession } from "./session";
import { TimeRuler } from "./time/TimeRuler";
import { Tray } from "./tray/Tray";
import { useKeys } from "./useKeys";
import { Viewer } from "./viewer/Viewer";

const FOLLOW_MS = 2000;

export function useShot(): string | null {
  const { shotId } = useParams();
  const [problem, setProblem] = useState<string | null>(null);
  const load = useSession((s) => s.load);
  const follow = useSession((s) => s.follow);

  useEffect(() => {
    setProblem(null);
    load(Number(shotId)).catch((error: Error) => setProblem(error.message));
    const timer = setInterval(() => follow().catch(() => undefined), FOLLOW_MS);
    return () => clearInterval(timer);
  }, [shotId, load, follow]);
  return problem;
}

/** The open matte, else the open card. */
function RightPanel() {
  const { shot, openMatte } = useSession();
  const matte = shot && openMatte ? documentOf(shot).mattes?.[openMatte] : undefined;
  return matte && openMatte ? <MattePanel key={openMatte} id={openMatte} matte={matte} /> : <CardPanel />;
}

/** The main screen: everything for one shot happens here. */
export function BenchPage() {
  const problem = useShot();
  const [sheet, setSheet] = useState(false);
  const showSheet = useCallback(() => setSheet(true), []);
  useKeys(showSheet);
  if (problem) {
    return (
      <div className="p-8" role="alert">
        <p className="mb-3 text-coral">{problem}</p>
        <Link to="/" className="text-verdigris underline">
          Back to the shots
        </Link>
      </div>
    );
  }
  return (
    <div className="flex h-full flex-col">
      <Header onKeys={showSheet} place="bench" />
      <div className="flex min-h-0 flex-1">
        <Tray />
        <main className="flex min-w-0 flex-1 flex-col">
          <Viewer />
          <TimeRuler />
        </main>
        <RightPanel />
      </div>
      <BuildLine />
      <KeySheet open={sheet} onOpen={setSheet} />
    </div>
  );
}
