import { useEffect, useState } from "react";
import { useSession } from "./session";

const REST_MS = 180;

/** The frame once it has stayed the same for a moment: small pictures wait until the hand rests. */
export function useRestingFrame(): number {
  const shotId = useSession((s) => s.shot?.id);
  const frame = useSession((s) => s.frame);
  const [resting, setResting] = useState({ shotId, frame });
  useEffect(() => {
    const wait = setTimeout(() => setResting({ shotId, frame }), REST_MS);
    return () => clearTimeout(wait);
  }, [shotId, frame]);
  // another shot begins at its own frame at once
  return resting.shotId === shotId ? resting.frame : frame;
}
