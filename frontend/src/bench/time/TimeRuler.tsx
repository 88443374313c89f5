import { Pause, Play } from "lucide-react";
import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import { IconButton } from "../../controls/Button";
import { isOpen, useComments } from "../comments/useComments";
import { useSessionParts } from "../session";
import { documentOf } from "../shotParts";
import { useContents } from "../useContents";
import { useReady } from "../viewer/frames";

/** The ruler under the picture: scrub, play, ready frames as taller ticks, keys of the open card, missing frames, what was said. */
export function TimeRuler() {
  const { shot, frame, playing, openCard, openMatte, set } = useSessionParts(
    "shot",
    "frame",
    "playing",
    "openCard",
    "openMatte",
    "set",
  );
  const ready = useReady();
  const contents = useContents();
  const ruler = useRef<HTMLDivElement>(null);
  const { comments } = useComments();
  const said = new Set(comments.filter(isOpen).flatMap((one) => (one.frame === null ? [] : [one.frame])));
  if (!shot) return null;
  const { first, last } = documentOf(shot).format;
  const count = last - first + 1;
  const place = (at: number) => `${((at - first + 0.5) / count) * 100}%`;
  const keys = (openMatte ? shot.keyed_mattes[openMatte] : openCard ? shot.keyed[openCard] : undefined) ?? [];
  const missing = new Set(contents?.missing ?? []);
  const every = Math.max(1, Math.ceil(count / 160));
  const label = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000].find((n) => (count / n) * 46 < 620) ?? 1000;

  const scrub = (event: PointerEvent<HTMLDivElement>) => {
    const box = ruler.current?.getBoundingClientRect();
    if (!box) return;
    const at = first + Math.floor(((event.clientX - box.left) / box.width) * count);
    set({ frame: Math.min(last, Math.max(first, at)), playing: false });
  };
  const keyDown = (event: KeyboardEvent) => {
    const steps: Record<string, number> = { ArrowLeft: frame - 1, ArrowRight: frame + 1, Home: first, End: last };
    const to = steps[event.key];
    if (to === undefined || event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    set({ frame: Math.min(last, Math.max(first, to)) });
  };
  return (
    <div className="flex h-11 shrink-0 items-center gap-3 border-t border-line bg-panel px-3" data-testid="time">
      <IconButton label={playing ? "Pause" : "Play"} shortcut="Space" onClick={() => set({ playing: !playing })}>
        {playing ? <Pause size={14} /> : <Play size={14} />}
      </IconButton>
      <span className="value w-9">{frame}</span>
      <div
        ref={ruler}
        role="slider"
        tabIndex={0}
        aria-label="Frame"
        aria-valuemin={first}
        aria-valuemax={last}
        aria-valuenow={frame}
        onKeyDown={keyDown}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          scrub(event);
        }}
        onPointerMove={(event) => event.buttons && scrub(event)}
        className="relative h-9 flex-1 cursor-ew-resize touch-none"
      >
        {Array.from({ length: count }, (_, i) => first + i)
          .filter((at) => (at - first) % every === 0)
          .map((at) => {
            const tall = ready.frames.has(at);
            const numbered = (at - first) % label === 0 && at <= last - label / 2;
            const lost = missing.has(at);
            return (
              <div key={at} className="absolute top-[3px] h-full" style={{ left: place(at) }}>
                <div
                  className={`w-px ${lost ? "bg-coral/70" : tall ? "bg-quiet" : "bg-line"}`}
                  style={{ height: tall ? 15 : 8, marginTop: tall ? 0 : 7 }}
                  title={lost ? `frame ${at} is missing` : undefined}
                />
                {numbered && (
                  <span className="value absolute top-[17px] left-0 -translate-x-1/2 text-[10px] text-faint">{at}</span>
                )}
              </div>
            );
          })}
        {[...said].map((at) => (
          <div
            key={`said ${at}`}
            data-testid="said"
            title={`something was said of ${at}`}
            className="absolute top-0 size-[6px] -translate-x-[3px] rounded-[1px] bg-text"
            style={{ left: place(at) }}
          />
        ))}
        {keys.map((at) => (
          <div
            key={at}
            title={`key at ${at}`}
            className="absolute top-[14px] size-[7px] -translate-x-[3px] rounded-full bg-text"
            style={{ left: place(at) }}
          />
        ))}
        <div
          className="absolute top-0 h-[22px] w-[2px] -translate-x-[1px] bg-verdigris"
          style={{ left: place(frame) }}
        />
      </div>
      <span className="value text-quiet">
        {first}–{last}
      </span>
    </div>
  );
}
