// biome-ignore-all lint/a11y/useSemanticElements: drawn parts of a picture have no elements of their own kind
import type { SVGProps } from "react";
import { type Card, type Keys, type Treatment, valueAt, withValue } from "../../api/document";
import { type Field, useModels } from "../../api/models";
import { focusAt } from "../card/FocusButtons";
import { triedAt } from "../edits";
import { type Edit, useSessionParts } from "../session";
import { cardsOf, documentOf, pathOf } from "../shotParts";
import { GRIPS, type Grip } from "./grips";
import { onStage, type Placing, stretched } from "./placing";
import { type Point, pair, rounded } from "./placingMath";
import { useGrips } from "./useGrips";

type Numbers = number | number[] | Keys;

/** What of the open treatment has a place or a size, in the picture: dragged, or moved by the arrow keys. */
export function TreatmentHandles({ placing }: { placing: Placing }) {
  const { shot, openCard, openTreatment, openMatte } = useSessionParts(
    "shot",
    "openCard",
    "openTreatment",
    "openMatte",
  );
  const card = cardsOf(shot).find((one) => one.id === openCard);
  const treatment = card?.treatments?.find((one) => one.id === openTreatment);
  const grips = treatment ? GRIPS[treatment.kind] : undefined;
  if (!shot || !card || !treatment || !grips || openMatte || treatment.enabled === false) return null;
  return (
    <svg
      className="pointer-events-none absolute inset-0 size-full"
      role="group"
      aria-label={`Handles of ${treatment.name ?? treatment.kind}`}
    >
      {grips.map((grip) => (
        <Handle key={grip.title} grip={grip} card={card} treatment={treatment} placing={placing} />
      ))}
    </svg>
  );
}

type HandleProps = { grip: Grip; card: Card; treatment: Treatment; placing: Placing };

function Handle({ grip, card, treatment, placing }: HandleProps) {
  const { shot, frame, previewed, spot, set } = useSessionParts("shot", "frame", "previewed", "spot", "set");
  const models = useModels();
  const drag = useGrips(placing);
  if (!shot) return null;
  const { width, height } = documentOf(shot).format;
  const path = [...pathOf(shot, card.id), "treatments", treatment.id];
  const now = { ...treatment, ...triedAt(previewed, path) };
  const fields = models?.treatments.find((one) => one.kind === treatment.kind)?.schema.properties;
  const usualOf = (key: string, fallback: number) =>
    ((fields?.[key] as Field | undefined)?.default as number) ?? fallback;
  const value = (key: string, fallback: number) =>
    valueAt<number>((now[key] ?? usualOf(key, fallback)) as number | Keys, frame);
  if (grip.shown && !grip.shown((key) => value(key, 0))) return null;
  const put = (key: string, next: number | Point): Edit => ({
    op: "set",
    path: [...path, key],
    value: withValue((treatment[key] ?? next) as Numbers, frame, next),
  });
  const middle: Point = [width / 2, height / 2];
  const placeOf = (of: Treatment, key: string, without: Point) =>
    valueAt<number[]>((of[key] ?? without) as number[] | Keys, frame) as Point;
  const touched: Point = spot ?? middle;
  const anchor = grip.shape === "arrow" && grip.from ? placeOf(now, grip.from, touched) : touched;
  const [ax, ay] = onStage(placing, anchor);
  const name = treatment.name ?? treatment.kind;
  const label = `${grip.title} of ${name}`;

  if (grip.shape === "place") {
    const at = (of: Treatment) => placeOf(of, grip.key, grip.touched ? touched : middle);
    const [x, y] = onStage(placing, at(now));
    const moved = ([dx, dy]: Point) => [put(grip.key, pair([at(treatment)[0] + dx, at(treatment)[1] + dy], 10))];
    return <Cross x={x} y={y} label={label} {...drag(moved, label)} />;
  }
  if (grip.shape === "focus") {
    const moveTo = ([dx, dy]: Point): Point => [Math.round(anchor[0] + dx), Math.round(anchor[1] + dy)];
    const done = (by: Point) => {
      set({ spot: moveTo(by) });
      focusAt(card, treatment, moveTo(by));
    };
    return <Cross x={ax} y={ay} label={label} {...drag(() => [], label, done)} />;
  }
  if (grip.shape === "arrow") {
    const { unit = 1 } = grip;
    const arrow = (of: (key: string, fallback: number) => number): Point => {
      const [angle, length] = [(of(grip.angle, grip.usual[0]) * Math.PI) / 180, unit * of(grip.length, grip.usual[1])];
      return [length * Math.cos(angle), -length * Math.sin(angle)];
    };
    const before = arrow((key, fallback) =>
      valueAt<number>((treatment[key] ?? usualOf(key, fallback)) as number | Keys, frame),
    );
    const moved = ([dx, dy]: Point) => {
      const [x, y] = [before[0] + dx, before[1] + dy];
      return [
        put(grip.angle, rounded((Math.atan2(-y, x) * 180) / Math.PI, 10)),
        put(grip.length, rounded(Math.hypot(x, y) / unit, 10 * unit)),
      ];
    };
    const [x, y] = arrow(value);
    const [tx, ty] = onStage(placing, [anchor[0] + x, anchor[1] + y]);
    return (
      <>
        <Shadowed x1={ax} y1={ay} x2={tx} y2={ty} />
        <circle cx={ax} cy={ay} r={3} className="fill-text" />
        <Knob x={tx} y={ty} label={label} {...drag(moved, label)} />
      </>
    );
  }
  const size = value(grip.key, grip.usual);
  const before = valueAt<number>((treatment[grip.key] ?? usualOf(grip.key, grip.usual)) as number | Keys, frame);
  const moved = ([dx, dy]: Point) => [put(grip.key, rounded(Math.max(0, before + dx - dy), 10))];
  const [far, down] = stretched(placing, [size, size]);
  return (
    <>
      {grip.shape === "ring" ? (
        <>
          <ellipse cx={ax} cy={ay} rx={far} ry={down} className="fill-none stroke-[3] stroke-ground/60" />
          <ellipse cx={ax} cy={ay} rx={far} ry={down} className="fill-none stroke-text" strokeDasharray="5 3" />
        </>
      ) : (
        <rect x={ax} y={ay - 28} width={far} height={56} className="fill-text/20 stroke-text" strokeDasharray="5 3" />
      )}
      <Knob x={ax + far} y={ay} label={label} {...drag(moved, label)} />
    </>
  );
}

const HELD = "pointer-events-auto outline-none stroke-2 focus-visible:stroke-verdigris";

/** A line that is seen on light and on dark. */
const Shadowed = (line: { x1: number; y1: number; x2: number; y2: number }) => (
  <>
    <line {...line} className="stroke-[3] stroke-ground/60" />
    <line {...line} className="stroke-text" />
  </>
);

type GripProps = SVGProps<SVGGElement> & { x: number; y: number; label: string };

/** Something to take hold of. */
const Knob = ({ x, y, label, ...on }: GripProps) => (
  <g role="button" tabIndex={0} aria-label={label} className={`${HELD} cursor-grab stroke-text`} {...on}>
    <title>{`${label}: drag it, or arrow keys`}</title>
    <circle cx={x} cy={y} r={6} className="fill-ground" />
  </g>
);

/** A place. */
const Cross = ({ x, y, label, ...on }: GripProps) => (
  <g role="button" tabIndex={0} aria-label={label} className={`${HELD} cursor-move stroke-text`} {...on}>
    <title>{`${label}: drag it, or arrow keys`}</title>
    <circle cx={x} cy={y} r={9} className="fill-ground/40" />
    <path d={`M${x - 14} ${y}h9M${x + 5} ${y}h9M${x} ${y - 14}v9M${x} ${y + 5}v9`} />
  </g>
);
