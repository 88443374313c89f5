import { useEffect, useRef, useState } from "react";
import type { Edit } from "../session";
import { useSession } from "../session";
import type { LookingAt } from "../shotParts";
import { type Looked, type LookOrder, look, type Rect, type Scale, scaleFor } from "./looks";
import { useTries } from "./useTries";

const REST_MS = 220;
let sequence = 0;

export type Wanted = {
  shotId: number;
  revision: number;
  frame: number;
  lookingAt: LookingAt;
  standing: string | null;
  /** A treatment that is left out, a card that is switched off. */
  without?: string;
  off?: string;
  channel: string;
  exposure: number;
  overrides: Edit[];
  zoom: number;
  window: Rect | null;
  /** How far this is from what is wanted otherwise. */
  less?: Partial<Wanted>;
};

type Seen = {
  looked: Looked | null;
  /** A picture has been waited for long enough to say so. */
  waiting: boolean;
  /** What is wanted is not yet what is shown, or is still coarser. */
  busy: boolean;
};

/** Keeps asking for the newest wanted picture, one request at a time; finer once the hand rests. One `beside` another tells no problems. */
export function useLook(wanted: Wanted | null, beside = false): Seen {
  const [viewer] = useState(() => crypto.randomUUID());
  const [looked, setLooked] = useState<Looked | null>(null);
  const [waiting, setWaiting] = useState(false);
  const [answered, setAnswered] = useState("");
  const newest = useRef<{ order: LookOrder; shotId: number; answers: string } | null>(null);
  const running = useRef(false);
  const refining = useRef<AbortController | null>(null);
  const [broken, setBroken] = useState(false);
  const key = wanted ? JSON.stringify(wanted) : "";
  const tries = useTries(broken && !beside, key);

  // biome-ignore lint/correctness/useExhaustiveDependencies: the key is all that is wanted, as text
  useEffect(() => {
    if (!wanted) return;
    const run = async () => {
      if (running.current) return;
      running.current = true;
      const slow = setTimeout(() => setWaiting(true), 500);
      while (newest.current) {
        const { order, shotId, answers } = newest.current;
        newest.current = null;
        try {
          refining.current = order.priority === "refine" ? new AbortController() : null;
          const found = await look(shotId, order, refining.current?.signal);
          if (found) {
            setLooked(found);
            setBroken(found.problem !== null);
            if (!beside) useSession.getState().set({ problem: found.problem });
          }
        } catch (error) {
          if (!newest.current) setBroken(true);
          if (!newest.current && !beside) {
            useSession.getState().set({ problem: (error as Error).message });
          }
        }
        setAnswered(answers);
      }
      clearTimeout(slow);
      setWaiting(false);
      running.current = false;
    };
    // edges are judged by their true pixels
    const fine = wanted.lookingAt.kind === "edges" ? 1 : scaleFor(wanted.zoom);
    const ask = (scale: Scale, priority: "look" | "refine") => {
      const answers = scale === fine ? key : "";
      newest.current = { order: { ...orderOf(wanted, scale, priority), viewer }, shotId: wanted.shotId, answers };
      // what only makes a picture finer is not waited for
      refining.current?.abort();
      run();
    };
    if (wanted.overrides.length && fine < 8) {
      ask((fine * 2) as Scale, "look");
      const rest = setTimeout(() => ask(fine, "refine"), REST_MS);
      return () => clearTimeout(rest);
    }
    ask(fine, "look");
  }, [key, tries]);

  return { looked, waiting, busy: key !== "" && answered !== key };
}

function orderOf(wanted: Wanted, scale: Scale, priority: "look" | "refine"): LookOrder {
  const { channel, exposure, overrides, revision, frame, less } = wanted;
  sequence += 1;
  return {
    ...whatOf(wanted),
    less: less && ({ ...whatOf({ ...wanted, ...less }), revision: less.revision } as LookOrder["less"]),
    revision,
    frame,
    channel: channel as LookOrder["channel"],
    exposure,
    overrides,
    scale,
    window: wanted.window,
    sequence,
    priority,
  };
}

function whatOf({ lookingAt, standing, without, off }: Wanted) {
  return { ...lookingAt, ...("source" in lookingAt || "card" in lookingAt ? {} : { card: standing }), without, off };
}
