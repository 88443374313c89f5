import { useSessionParts } from "../session";
import { documentOf } from "../shotParts";
import { LEAST, runsOf, told, useAreas } from "./useAreas";

const WIDTH = 262;
const HEIGHT = 44;

/** How much of the frame a matte covers, frame by frame; a click goes there. Frames on which it vanishes are marked. */
export function AreaPlot({ id }: { id: string }) {
  const { shot, frame, set } = useSessionParts("shot", "frame", "set");
  const areas = useAreas(id);
  if (!shot) return null;
  const { first, last } = documentOf(shot).format;
  const count = last - first + 1;
  const most = Math.max(LEAST, ...[...areas.values()].map((area) => area ?? 0));
  const across = (at: number) => ((at - first + 0.5) / count) * WIDTH;
  const bar = Math.max(1, WIDTH / count - 0.5);
  const gone = [...areas].filter(([, area]) => area !== null && area <= LEAST);
  const unread = [...areas].filter(([, area]) => area === null).length;
  const here = areas.get(frame);
  const step = (by: number) => set({ frame: Math.min(last, Math.max(first, frame + by)) });
  return (
    <section className="border-t border-line px-3 py-2" aria-label="Area over time">
      <h3 className="heading mb-1 flex">
        Area
        <span className="value ml-auto font-normal text-text">{here == null ? "" : told(here)}</span>
      </h3>
      <div
        role="slider"
        tabIndex={0}
        aria-label="Frame of the area"
        aria-valuemin={first}
        aria-valuemax={last}
        aria-valuenow={frame}
        className="cursor-pointer"
        onKeyDown={(event) => {
          if (event.key !== "ArrowLeft" && event.key !== "ArrowRight") return;
          step(event.key === "ArrowLeft" ? -1 : 1);
          event.preventDefault();
          event.stopPropagation();
        }}
        onClick={(event) => {
          const box = event.currentTarget.getBoundingClientRect();
          const at = first + Math.floor(((event.clientX - box.left) / box.width) * count);
          set({ frame: Math.min(last, Math.max(first, at)), playing: false });
        }}
      >
        <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="block w-full rounded-[2px] bg-stage" aria-hidden="true">
          {[...areas].map(([at, area]) =>
            area !== null && area > LEAST ? (
              <rect
                key={at}
                x={across(at) - bar / 2}
                width={bar}
                y={HEIGHT - 2 - Math.max(1, (area / most) * (HEIGHT - 6))}
                height={Math.max(1, (area / most) * (HEIGHT - 6))}
                className={at === frame ? "fill-lilac" : "fill-lilac/55"}
              />
            ) : (
              <rect key={at} x={across(at) - bar / 2} width={bar} y={HEIGHT - 3} height={3} className="fill-coral" />
            ),
          )}
          <line x1={across(frame)} x2={across(frame)} y1={0} y2={HEIGHT} className="stroke-text/60" />
        </svg>
      </div>
      <p className="mt-1 text-[11px] text-quiet" role="status">
        {areas.size < count
          ? `measured on ${areas.size} of ${count} frames…`
          : gone.length === 0 && unread === 0
            ? "there on every frame"
            : `there on ${runsOf(areas) || "no frame"}${unread ? `; ${unread} could not be read` : ""}`}
      </p>
    </section>
  );
}
