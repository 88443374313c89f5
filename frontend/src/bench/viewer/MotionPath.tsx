// biome-ignore-all lint/a11y/useSemanticElements: drawn parts of a picture have no elements of their own kind
import { type PointerEvent, useRef } from "react";
import { type Card, withValue } from "../../api/document";
import { type Edit, useSessionParts } from "../session";
import { pathOf, shownName } from "../shotParts";
import { type Placing, unstretched } from "./placing";
import { backBy, keysOf, type Matrix, numbersOf, type Point, pair, through, WAYS } from "./placingMath";

type PathProps = {
  card: Card;
  parent: Matrix;
  screen: (point: Point) => Point;
  placing: Placing;
  middle: Point;
};

/** The way the card goes, frame by frame, and its keys, which are dragged. */
export function MotionPath({ card, parent, screen, placing, middle }: PathProps) {
  const { shot, frame, edit, preview, set } = useSessionParts("shot", "frame", "edit", "preview", "set");
  const grip = useRef<{ at: number; start: Point; from: Point } | null>(null);
  const saved = card.placing ?? {};
  const keys = keysOf(saved.move);
  if (!shot || keys.length < 2) return null;
  const [first, last] = [keys[0]?.[0] ?? 0, keys.at(-1)?.[0] ?? 0];
  const at = (when: number): Point => {
    const { about, move } = numbersOf(saved, when, middle);
    return screen(through(parent, [about[0] + move[0], about[1] + move[1]]));
  };
  const step = Math.max(1, Math.floor((last - first) / 200));
  const frames = Array.from({ length: Math.floor((last - first) / step) + 1 }, (_, i) => first + i * step);
  const path = [...pathOf(shot, card.id), "placing", "move"];
  const put = (when: number, to: Point): Edit[] => [{ op: "set", path, value: withValue(saved.move, when, to) }];
  const moved = (event: PointerEvent): Point => {
    const held = grip.current;
    if (!held) return [0, 0];
    const way = backBy(parent, unstretched(placing, [event.clientX - held.start[0], event.clientY - held.start[1]]));
    return pair([held.from[0] + way[0], held.from[1] + way[1]]);
  };
  return (
    <g>
      <polyline points={frames.map((when) => at(when).join(",")).join(" ")} className="fill-none stroke-verdigris/60" />
      {frames.map((when) => {
        const [x, y] = at(when);
        return <circle key={when} cx={x} cy={y} r={1.3} className="fill-verdigris" />;
      })}
      {keys.map(([when, point]) => {
        const [x, y] = at(when);
        return (
          <rect
            key={when}
            x={x - 4}
            y={y - 4}
            width={8}
            height={8}
            transform={`rotate(45 ${x} ${y})`}
            role="button"
            tabIndex={0}
            aria-label={`Key of the move at ${when}`}
            className={`pointer-events-auto cursor-grab stroke-verdigris ${when === frame ? "fill-verdigris" : "fill-ground"}`}
            onDoubleClick={() => set({ frame: when })}
            onPointerDown={(event) => {
              event.stopPropagation();
              event.currentTarget.setPointerCapture(event.pointerId);
              grip.current = { at: when, start: [event.clientX, event.clientY], from: point };
            }}
            onPointerMove={(event) => {
              event.stopPropagation();
              if (grip.current) preview(put(when, moved(event)));
            }}
            onPointerUp={(event) => {
              event.stopPropagation();
              const to = moved(event);
              grip.current = null;
              if (to[0] === point[0] && to[1] === point[1]) preview([]);
              else edit(put(when, to), `move ${shownName(card)} at ${when}`);
            }}
            onKeyDown={(event) => {
              const way = WAYS[event.key];
              if (event.key === "Enter") set({ frame: when });
              else if (way) {
                const far = event.shiftKey ? 10 : 1;
                edit(
                  put(when, [point[0] + way[0] * far, point[1] + way[1] * far]),
                  `move ${shownName(card)} at ${when}`,
                );
              } else return;
              event.preventDefault();
              event.stopPropagation();
              event.nativeEvent.stopImmediatePropagation();
            }}
          />
        );
      })}
    </g>
  );
}
