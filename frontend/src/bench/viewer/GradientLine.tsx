// biome-ignore-all lint/a11y/useSemanticElements: drawn parts of a picture have no elements of their own kind
// biome-ignore-all lint/suspicious/noArrayIndexKey: stops have nothing but their order
import { type Card, type GradientStop, type Keys, USUAL_STOPS, valueAt, withValue } from "../../api/document";
import { useColours } from "../card/useColours";
import { triedAt } from "../edits";
import { type Edit, useSessionParts } from "../session";
import { cardsOf, documentOf, pathOf, shownName } from "../shotParts";
import { onStage, type Placing } from "./placing";
import { backBy, type Matrix, matrixOf, numbersOf, type Point, pair, through, times } from "./placingMath";
import { useGrips } from "./useGrips";
import { useStanding } from "./useStanding";

/** The line of an open gradient in the picture: its ends and its stops are dragged. */
export function GradientLine({ placing }: { placing: Placing }) {
  const { shot, openCard, openMatte } = useSessionParts("shot", "openCard", "openMatte");
  const card = cardsOf(shot).find((one) => one.id === openCard);
  if (!shot || openMatte || card?.picture?.kind !== "gradient") return null;
  return <Ends key={card.id} card={card} placing={placing} />;
}

function Ends({ card, placing }: { card: Card; placing: Placing }) {
  const { shot, frame, previewed } = useSessionParts("shot", "frame", "previewed");
  const standing = useStanding(card.id);
  const grip = useGrips(placing);
  const { hex } = useColours();
  if (!shot || !standing) return null;
  const { width, height } = documentOf(shot).format;
  const path = [...pathOf(shot, card.id), "picture"];
  const saved = card.picture as { [key: string]: unknown };
  const now = { ...saved, ...triedAt(previewed, path) };
  const end = (of: typeof now, name: "start" | "end"): Point =>
    valueAt<number[]>((of[name] ?? (name === "start" ? [0, 0] : [0, 720])) as number[] | Keys, frame) as Point;
  const total = times(
    standing.parent as Matrix,
    matrixOf(numbersOf(card.placing ?? {}, frame, [width / 2, height / 2])),
  );
  const seen = (point: Point): Point => onStage(placing, through(total, point));
  const [a, b] = [end(now, "start"), end(now, "end")];
  const [from, to] = [seen(a), seen(b)];
  const stops = (now.stops ?? USUAL_STOPS) as GradientStop[];
  const name = shownName(card);

  const movedEnd = (which: "start" | "end", by: Point): Edit[] => {
    const old = end(saved, which);
    const next = pair([old[0] + by[0], old[1] + by[1]], 10);
    return [{ op: "set", path: [...path, which], value: withValue(saved[which] ?? old, frame, next) }];
  };
  const movedStop = (index: number, by: Point): Edit[] => {
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const along = (by[0] * dx + by[1] * dy) / Math.max(1e-6, dx * dx + dy * dy);
    const list = (saved.stops ?? stops) as GradientStop[];
    const at = valueAt<number>(list[index]?.at ?? 0, frame) + along;
    const value = Number(Math.min(1, Math.max(0, at)).toFixed(4));
    return [
      {
        op: "set",
        path: [...path, "stops"],
        value: list.map((one, i) => (i === index ? { ...one, at: withValue(one.at, frame, value) } : one)),
      },
    ];
  };
  const drag = (moved: (by: Point) => Edit[], what: string) => grip((by) => moved(backBy(total, by)), what);
  return (
    <svg className="pointer-events-none absolute inset-0 size-full" role="group" aria-label={`Gradient of ${name}`}>
      <line x1={from[0]} y1={from[1]} x2={to[0]} y2={to[1]} className="stroke-ground/70 stroke-[3]" />
      <line x1={from[0]} y1={from[1]} x2={to[0]} y2={to[1]} className="stroke-text" />
      {stops.map((stop, index) => {
        const t = valueAt<number>(stop.at ?? 0, frame);
        const colour = valueAt<number[]>((stop.colour ?? [0, 0, 0]) as number[] | Keys, frame);
        return (
          <circle
            key={index}
            role="button"
            tabIndex={0}
            aria-label={`Stop ${index + 1} on the line`}
            cx={from[0] + (to[0] - from[0]) * t}
            cy={from[1] + (to[1] - from[1]) * t}
            r={6}
            fill={hex(colour)}
            className="pointer-events-auto cursor-grab stroke-2 stroke-text outline-none focus-visible:stroke-verdigris"
            {...drag((by) => movedStop(index, by), `move a stop of ${name}`)}
          />
        );
      })}
      {(["start", "end"] as const).map((which) => {
        const [x, y] = which === "start" ? from : to;
        // beside the line, so that a stop at the end of it can still be taken hold of
        const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
        const k = (which === "start" ? -14 : 14) / Math.max(1, Math.hypot(dx, dy));
        return (
          <rect
            key={which}
            role="button"
            tabIndex={0}
            aria-label={`${which === "start" ? "Start" : "End"} of the gradient`}
            x={x + dx * k - 5}
            y={y + dy * k - 5}
            width={10}
            height={10}
            className="pointer-events-auto cursor-move fill-ground stroke-2 stroke-verdigris outline-none focus-visible:fill-verdigris"
            {...drag((by) => movedEnd(which, by), `${which} of ${name}`)}
          >
            <title>{`${which} of the gradient`}</title>
          </rect>
        );
      })}
    </svg>
  );
}
