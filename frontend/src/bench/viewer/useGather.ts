import { useRef, useState } from "react";
import { answer, api } from "../../api/client";
import type { Matte } from "../../api/document";
import { listed } from "../../controls/listed";
import { report } from "../../controls/notices";
import { freshName } from "../freshName";
import { lastPart } from "../matte/names";
import { nameOfMatte, useSession } from "../session";
import { documentOf } from "../shotParts";
import type { Size } from "./placing";

type Point = [number, number];
type IdMatte = Matte & { source?: string; layer?: string };
const MOST = 4000; // points of a stroke; one that is longer is told by every other
const APART = 4;

/** A pixel of the picture, if that is where a point lies. */
export const inside = (at: Point, { width, height }: Size): Point | null =>
  at[0] >= 0 && at[1] >= 0 && at[0] < width && at[1] < height ? at : null;

/** The pixel of the picture that is nearest to a point. */
const nearest = ([x, y]: Point, { width, height }: Size): Point => [
  Math.max(0, Math.min(x, width - 1)),
  Math.max(0, Math.min(y, height - 1)),
];

/**
 * A stroke with Shift held gathers every object it goes over into one matte; a click with Shift adds one, or takes it out.
 * With Alt as well a box is drawn, and what lies in it is gathered.
 */
export function useGather(picture: Size) {
  const points = useRef<Point[]>([]);
  const corner = useRef<[Point, Point]>([
    [0, 0],
    [0, 0],
  ]);
  const [stroke, setStroke] = useState<Point[] | null>(null);
  const [boxed, setBoxed] = useState(false);
  const begin = (screen: Point, at: Point, box: boolean) => {
    points.current = inside(at, picture) ? [at] : [];
    corner.current = [nearest(at, picture), nearest(at, picture)];
    setBoxed(box);
    setStroke([screen]);
  };
  const extend = (screen: Point, at: Point) => {
    corner.current[1] = nearest(at, picture);
    if (inside(at, picture)) points.current.push(...between(points.current.at(-1), at));
    if (points.current.length > MOST) points.current = points.current.filter((_, index) => index % 2 === 0);
    setStroke((old) => (old ? [...old, screen] : null));
  };
  const finish = async (radius: number) => {
    const gone = stroke ?? [];
    setStroke(null);
    const first = gone[0];
    const moved = first !== undefined && gone.some(([x, y]) => Math.hypot(x - first[0], y - first[1]) > 4);
    try {
      if (boxed && moved) await gather({ box: around(corner.current) }, true);
      else if (!points.current.length) return;
      else if (moved) await gather({ points: points.current }, true);
      else await gather({ points: points.current.slice(0, 1), radius }, false);
    } catch (error) {
      report(error);
    }
  };
  /** What a click with Shift does, at a pixel of the picture. */
  const at = (spot: Point, radius: number) => gather({ points: [spot], radius }, false).catch(report);
  const line = stroke && boxed ? corners(stroke) : stroke;
  return { stroke: line, begin, extend, finish, at };
}

const corners = (stroke: Point[]): Point[] => {
  const [x0, y0] = stroke[0] as Point;
  const [x1, y1] = stroke[stroke.length - 1] as Point;
  return [
    [x0, y0],
    [x1, y0],
    [x1, y1],
    [x0, y1],
    [x0, y0],
  ];
};

/** The box between two pixels, with both. */
function around([[x0, y0], [x1, y1]]: [Point, Point]): [number, number, number, number] {
  return [Math.min(x0, x1), Math.min(y0, y1), Math.max(x0, x1) + 1, Math.max(y0, y1) + 1];
}

/** Pixels on the way from one point to another, so that a quick stroke misses nothing. */
function between(from: Point | undefined, to: Point): Point[] {
  if (!from) return [to];
  const steps = Math.ceil(Math.hypot(to[0] - from[0], to[1] - from[1]) / APART);
  return Array.from({ length: steps }, (_, index): Point => {
    const way = (index + 1) / steps;
    return [Math.round(from[0] + (to[0] - from[0]) * way), Math.round(from[1] + (to[1] - from[1]) * way)];
  });
}

type Reach = { points?: Point[]; radius?: number; box?: [number, number, number, number] };

async function gather(reach: Reach, moved: boolean): Promise<void> {
  const { shot, frame, openMatte, edit, set } = useSession.getState();
  if (!shot) return;
  const told = await answer(
    api.POST("/api/shots/{shot_id}/gather", {
      params: { path: { shot_id: shot.id } },
      body: { revision: shot.revision, frame, ...reach },
    }),
  );
  const { source, layer, names = [] } = told;
  if (!source || !layer || !names.length) return;
  const mattes = documentOf(shot).mattes ?? {};
  const open = openMatte ? (mattes[openMatte] as IdMatte | undefined) : undefined;
  if (openMatte && open?.kind === "id" && open.source === source && open.layer === layer) {
    const now = (open.names ?? []).map(String);
    const only = names[0] ?? "";
    const out = !moved && now.includes(only) && now.length > 1;
    const next = out ? now.filter((name) => name !== only) : [...now, ...names.filter((name) => !now.includes(name))];
    if (next.length === now.length) return;
    await edit(
      [{ op: "set", path: ["mattes", openMatte, "names"], value: next }],
      out
        ? `take ${lastPart(only)} out of ${nameOfMatte(openMatte)}`
        : `add ${listed(names.map(lastPart))} to ${nameOfMatte(openMatte)}`,
    );
  } else {
    const first = lastPart(names[0] ?? "matte");
    const id = freshName(Object.keys(mattes), names.length > 1 ? `${first} and others` : first);
    const item = { id, kind: "id", source, layer, names };
    if (!(await edit([{ op: "insert", path: ["mattes"], item }], `matte of ${listed(names.map(lastPart))}`))) return;
    set({ openMatte: id });
  }
  const looked = useSession.getState();
  if (looked.lookingAt.kind === "picture" && looked.openMatte)
    set({ lookingAt: { kind: "tint", name: looked.openMatte } });
}
