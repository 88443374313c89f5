import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { Refused } from "../api/client";
import { sentence } from "../controls/sentence";
import { useSession } from "./session";

const FOLLOW_MS = 2000;

/** Opens the shot of the address and follows what others do to it; what went wrong where it cannot be opened. */
export function useShot(): string | null {
  const { shotId } = useParams();
  const [problem, setProblem] = useState<string | null>(null);
  const load = useSession((s) => s.load);
  const follow = useSession((s) => s.follow);

  useEffect(() => {
    setProblem(null);
    load(Number(shotId)).catch((error: Error) => setProblem(error.message));
    // a server that is away comes back; a shot that somebody deleted meanwhile does not by itself
    const gone = (error: unknown) => error instanceof Refused && error.code === "no-shot" && setProblem(error.message);
    const timer = setInterval(() => follow().catch(gone), FOLLOW_MS);
    return () => clearInterval(timer);
  }, [shotId, load, follow]);
  return problem;
}

/** In place of a shot that cannot be opened. */
export const LostShot = ({ problem }: { problem: string }) => (
  <main className="p-8" role="alert">
    <p className="mb-3 text-coral">{sentence(problem)}.</p>
    <Link to="/" className="text-verdigris underline">
      Back to the shots
    </Link>
  </main>
);
