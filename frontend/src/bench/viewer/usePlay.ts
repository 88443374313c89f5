import { useEffect } from "react";
import { rateOf } from "../../api/document";
import { useSession } from "../session";
import { documentOf } from "../shotParts";
import { prefetch, useReady } from "./frames";
import { type Scale, thumbAddress } from "./looks";

/** While playing: fetch frames ahead and step through them in real time; a frame that is not ready is waited for. */
export function usePlay(scale: Scale): void {
  const playing = useSession((s) => s.playing);
  const shot = useSession((s) => s.shot);
  const lookingAt = useSession((s) => s.lookingAt);
  const standing = useSession((s) => s.standing);
  const channel = useSession((s) => s.channel);
  const exposure = useSession((s) => s.exposure);

  useEffect(() => {
    if (!playing || !shot) return;
    const { first, last, fps } = documentOf(shot).format;
    const onCard = lookingAt.kind === "pass" || lookingAt.kind === "ids" ? undefined : (standing ?? undefined);
    const address = (frame: number) =>
      thumbAddress(shot.id, {
        ...lookingAt,
        card: onCard,
        revision: shot.revision,
        frame,
        scale,
        channel,
        exposure,
        priority: "prefetch",
      });
    const stop = prefetch(address(0), () => useSession.getState().frame, first, last, address);
    let due = performance.now();
    let handle = 0;
    const tick = (now: number) => {
      const { frame } = useSession.getState();
      const next = frame >= last ? first : frame + 1;
      if (now >= due) {
        if (useReady.getState().frames.has(next)) {
          useSession.getState().set({ frame: next });
          due = Math.max(due + 1000 / rateOf(fps), now - 100);
        } else due = now + 30;
      }
      handle = requestAnimationFrame(tick);
    };
    handle = requestAnimationFrame(tick);
    return () => {
      cancelAnimationFrame(handle);
      stop();
    };
  }, [playing, shot, lookingAt, standing, channel, exposure, scale]);
}
