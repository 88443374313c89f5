// biome-ignore-all lint/a11y/useSemanticElements: drawn parts of a picture have no elements of their own kind
// biome-ignore-all lint/suspicious/noArrayIndexKey: points have nothing but their order
import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import { isKeys, type Keys, type Matte, valueAt, withValue } from "../../api/document";
import { useSessionParts } from "../session";
import { documentOf } from "../shotParts";
import {
  asPoints,
  asValues,
  everywhere,
  type Form,
  middleOf,
  type Point,
  pathOf,
  turned,
  withPointAfter,
} from "./outlines";
import { onStage, type Placing, stretched, unstretched } from "./placing";

type Shape = Matte & { form?: Form; points: number[] | Keys; turn?: number | Keys };

/** The open shape on the picture: its points are dragged, its sides give new ones, all of it moves by its middle. */
export function ShapeOverlay({ placing }: { placing: Placing }) {
  const { shot, openMatte, previewed } = useSessionParts("shot", "openMatte", "previewed");
  const matte = shot && openMatte ? (documentOf(shot).mattes?.[openMatte] as Shape | undefined) : undefined;
  if (matte?.kind !== "shape" || !openMatte) return null;
  const dragged = previewed.find((edit) => edit.op === "set" && edit.path[2] === "points");
  const points = dragged && "value" in dragged ? (dragged.value as number[] | Keys) : matte.points;
  return <Outline id={openMatte} matte={{ ...matte, points }} saved={matte.points} placing={placing} />;
}

function Outline({
  id,
  matte,
  saved,
  placing,
}: {
  id: string;
  matte: Shape;
  saved: Shape["points"];
  placing: Placing;
}) {
  const { frame, edit, preview } = useSessionParts("frame", "edit", "preview");
  const grip = useRef<{ start: Point; from: Point[] } | null>(null);
  const form = matte.form ?? "polygon";
  const points = asPoints(valueAt<number[]>(matte.points, frame));
  const turn = valueAt<number>((matte.turn ?? 0) as number | Keys, frame);
  const middle = middleOf(form, points);
  const screen = (point: Point): Point => onStage(placing, turned(point, middle, turn));
  const path = ["mattes", id, "points"];
  const change = (next: Point[]) => [{ op: "set" as const, path, value: withValue(saved, frame, asValues(next)) }];
  const save = (next: Point[]) => edit(change(next), `shape of ${matte.name ?? id}`);

  const moved = (index: number | null, by: Point, from: Point[]): Point[] => {
    const add = ([x, y]: Point): Point => [x + by[0], y + by[1]];
    if (form === "ellipse") {
      const [centre, radii] = from as [Point, Point];
      if (index === null) return [add(centre), radii];
      const wide = Math.max(1, radii[0] + (index === 0 ? by[0] : 0));
      return [centre, [wide, Math.max(1, radii[1] + (index === 1 ? by[1] : 0))]];
    }
    return from.map((point, at) => (index === null || at === index ? add(point) : point));
  };
  /** A way on the screen as a way in the picture, before the turn. */
  const unturned = (by: Point): Point => turned(unstretched(placing, by), [0, 0], -turn);
  const drag = (index: number | null) => ({
    onPointerDown: (event: PointerEvent<SVGElement>) => {
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      grip.current = { start: [event.clientX, event.clientY], from: points };
    },
    onPointerMove: (event: PointerEvent<SVGElement>) => {
      event.stopPropagation();
      const { start, from } = grip.current ?? {};
      if (start && from)
        preview(change(moved(index, unturned([event.clientX - start[0], event.clientY - start[1]]), from)));
    },
    onPointerUp: (event: PointerEvent<SVGElement>) => {
      event.stopPropagation();
      const { start, from } = grip.current ?? {};
      grip.current = null;
      if (!start || !from) return;
      const by: Point = [event.clientX - start[0], event.clientY - start[1]];
      if (Math.hypot(...by) < 1) preview([]);
      else save(moved(index, unturned(by), from));
    },
    onKeyDown: (event: KeyboardEvent) => {
      const step = event.shiftKey ? 10 : 1;
      const ways: Record<string, Point> = {
        ArrowLeft: [-step, 0],
        ArrowRight: [step, 0],
        ArrowUp: [0, -step],
        ArrowDown: [0, step],
      };
      const way = ways[event.key];
      if (way) save(moved(index, way, points));
      else if (event.key === "Delete" && index !== null) remove(index);
      else return;
      event.preventDefault();
      event.stopPropagation();
    },
  });
  const remove = (index: number) => {
    if (form === "ellipse" || points.length <= 3) return;
    const value = everywhere(saved, (all) => all.filter((_, at) => at !== index));
    edit([{ op: "set", path, value }], `take a point out of ${matte.name ?? id}`);
  };
  const insert = (index: number) =>
    edit([{ op: "set", path, value: everywhere(saved, withPointAfter(index)) }], `add a point to ${matte.name ?? id}`);

  const [centre, radii] = points as [Point, Point];
  const grips: Point[] =
    form === "ellipse"
      ? [
          [centre[0] + radii[0], centre[1]],
          [centre[0], centre[1] + radii[1]],
        ]
      : points;
  const [mx, my] = screen(middle);
  const keyed = isKeys(saved) && saved.keys.some(([at]) => at === frame);
  return (
    <svg
      className="pointer-events-none absolute inset-0 size-full"
      aria-label={`Outline of ${matte.name ?? id}`}
      role="group"
    >
      {form === "ellipse" ? (
        <ellipse
          rx={radii[0]}
          ry={radii[1]}
          transform={`translate(${mx} ${my}) scale(${stretched(placing, [1, 1])}) rotate(${-turn})`}
          vectorEffect="non-scaling-stroke"
          className="fill-none stroke-lilac"
        />
      ) : (
        <path d={pathOf(form, points.map(screen))} className="fill-none stroke-lilac" />
      )}
      <rect
        x={mx - 5}
        y={my - 5}
        width={10}
        height={10}
        tabIndex={0}
        role="button"
        aria-label={`Move ${matte.name ?? id}`}
        className="pointer-events-auto cursor-move fill-lilac/30 stroke-lilac"
        {...drag(null)}
      />
      {form !== "ellipse" &&
        points.map((point, index) => {
          const next = points[(index + 1) % points.length] as Point;
          const [x, y] = screen([(point[0] + next[0]) / 2, (point[1] + next[1]) / 2]);
          return (
            <circle
              key={`side ${index}`}
              cx={x}
              cy={y}
              r={3}
              role="button"
              tabIndex={0}
              aria-label={`New point after ${index + 1}`}
              className="pointer-events-auto cursor-copy fill-panel stroke-lilac/60 hover:fill-lilac focus:fill-lilac"
              onKeyDown={(event) => {
                if (event.key !== "Enter" && event.key !== " ") return;
                event.preventDefault();
                event.stopPropagation();
                insert(index);
              }}
              onPointerDown={(event) => event.stopPropagation()}
              onPointerUp={(event) => {
                event.stopPropagation();
                insert(index);
              }}
            />
          );
        })}
      {grips.map((point, index) => {
        const [x, y] = screen(point);
        return (
          <circle
            key={`point ${index}`}
            cx={x}
            cy={y}
            r={5}
            tabIndex={0}
            role="button"
            aria-label={form === "ellipse" ? (index ? "Height" : "Width") : `Point ${index + 1}`}
            className={`pointer-events-auto cursor-grab stroke-lilac focus:fill-lilac ${keyed ? "fill-lilac" : "fill-panel"}`}
            onDoubleClick={() => remove(index)}
            {...drag(index)}
          />
        );
      })}
    </svg>
  );
}
