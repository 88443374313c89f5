import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import { useSession } from "../session";
import { type Placing, type Size, stretched } from "./placing";

type Props = { placing: Placing; picture: Size; now: string; was: string };

const STEP = 0.01;
const limited = (share: number) => Math.min(1, Math.max(0, share));

/** The edge between what the picture is compared with, on its left, and the picture: dragged, or moved by the arrow keys. */
export function Wipe({ placing, picture, now, was }: Props) {
  const at = useSession((s) => s.wipe) ?? 0.5;
  const set = useSession((s) => s.set);
  const held = useRef<{ x: number; from: number } | null>(null);
  const [width, height] = stretched(placing, [picture.width, picture.height]);
  const x = placing.x + at * width;
  const top = Math.max(0, placing.y);
  const keys = (event: KeyboardEvent) => {
    const by = { ArrowLeft: -STEP, ArrowRight: STEP }[event.key];
    const to = by === undefined ? { Home: 0, End: 1 }[event.key] : limited(at + by * (event.shiftKey ? 10 : 1));
    if (to === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    event.nativeEvent.stopImmediatePropagation();
    set({ wipe: to });
  };
  const drag = {
    onPointerDown: (event: PointerEvent<HTMLElement>) => {
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      held.current = { x: event.clientX, from: at };
    },
    onPointerMove: (event: PointerEvent<HTMLElement>) => {
      event.stopPropagation();
      if (held.current) set({ wipe: limited(held.current.from + (event.clientX - held.current.x) / width) });
    },
    onPointerUp: (event: PointerEvent<HTMLElement>) => {
      event.stopPropagation();
      held.current = null;
    },
  };
  return (
    <>
      <Word style={{ left: x - 8, top: top + 6 }} className="-translate-x-full" text={was} />
      <Word style={{ left: x + 8, top: top + 6 }} text={now} />
      <div
        role="slider"
        tabIndex={0}
        aria-label={`Wipe between ${was} and ${now}`}
        aria-valuenow={Math.round(at * 100)}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-orientation="horizontal"
        title="drag it, or arrow keys"
        className="absolute z-10 w-[13px] -translate-x-1/2 cursor-ew-resize touch-none"
        style={{ left: x, top, height: Math.max(0, placing.y + height - top) }}
        onKeyDown={keys}
        {...drag}
      >
        <span className="absolute inset-y-0 left-1/2 w-px -translate-x-1/2 bg-text outline outline-1 outline-ground/60" />
        <span className="absolute top-1/2 left-1/2 h-7 w-[7px] -translate-1/2 rounded-sm border border-ground bg-text" />
      </div>
    </>
  );
}

const Word = ({ text, className = "", style }: { text: string; className?: string; style: object }) => (
  <span
    style={style}
    className={`pointer-events-none absolute z-10 rounded-sm bg-ground/70 px-1.5 py-0.5 text-[11px] whitespace-nowrap text-text ${className}`}
  >
    {text}
  </span>
);
