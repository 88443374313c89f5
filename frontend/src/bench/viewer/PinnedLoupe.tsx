import { useQuery } from "@tanstack/react-query";
import { useSessionParts } from "../session";
import { Loupe } from "./Loupe";
import { onStage, type Placing, type Size } from "./placing";
import { askUnder } from "./useUnder";

/** Values that stay at their pixel while frames, cards and looks change. */
export function PinnedLoupe({ placing, size }: { placing: Placing; size: Size }) {
  const { shot, frame, pinned, lookingAt, standing, exposure, playing, set } = useSessionParts(
    "shot",
    "frame",
    "pinned",
    "lookingAt",
    "standing",
    "exposure",
    "playing",
    "set",
  );
  const query = useQuery({
    queryKey: ["pinned", shot?.id, shot?.revision, frame, pinned, lookingAt, standing, exposure],
    queryFn: () => (pinned ? askUnder(pinned, 0) : null),
    enabled: shot !== null && pinned !== null && !playing,
    placeholderData: (before) => before,
  });
  const found = query.data;
  if (!pinned || !found?.probe) return null;
  const [x, y] = onStage(placing, [pinned[0] + 0.5, pinned[1] + 0.5]);
  const left = Math.max(4, Math.min(x + 14, size.width - 250));
  const top = Math.max(4, Math.min(y + 14, size.height - 110));
  return (
    <>
      <span
        className="pointer-events-none absolute z-10 h-[9px] w-[9px] -translate-1/2 border border-verdigris"
        style={{ left: x, top: y }}
      />
      <div onPointerDown={(event) => event.stopPropagation()} onPointerUp={(event) => event.stopPropagation()}>
        <Loupe probe={found.probe} under={found.under} left={left} top={top} onRelease={() => set({ pinned: null })} />
      </div>
    </>
  );
}
