import type { Keys } from "../../api/document";
import { isKeys } from "../../api/document";

export type Point = [number, number];
export type Form = "polygon" | "curve" | "ellipse";

/** x and y in turn as points, and back. */
export const asPoints = (values: number[]): Point[] =>
  Array.from({ length: values.length / 2 }, (_, index) => [values[2 * index] ?? 0, values[2 * index + 1] ?? 0]);
export const asValues = (points: Point[]): number[] => points.flat().map((value) => Math.round(value * 100) / 100);

const mean = (points: Point[]): Point => [
  points.reduce((sum, [x]) => sum + x, 0) / points.length,
  points.reduce((sum, [, y]) => sum + y, 0) / points.length,
];

/** What a shape turns about. */
export const middleOf = (form: Form, points: Point[]): Point =>
  form === "ellipse" ? (points[0] ?? [0, 0]) : mean(points);

/** A point turned about a middle, counter-clockwise as seen on the screen. */
export function turned([x, y]: Point, [mx, my]: Point, degrees: number): Point {
  const cos = Math.cos((degrees * Math.PI) / 180);
  const sin = Math.sin((degrees * Math.PI) / 180);
  return [mx + (x - mx) * cos + (y - my) * sin, my - (x - mx) * sin + (y - my) * cos];
}

/** The outline as an SVG path through points on the screen; a curve as the core draws it. */
export function pathOf(form: Form, points: Point[]): string {
  const at = (index: number): Point => points[(index + points.length) % points.length] ?? [0, 0];
  if (form !== "curve") return `M${points.map((point) => point.join(",")).join("L")}Z`;
  const third = (from: Point, before: Point, after: Point, way: number): Point => [
    from[0] + ((after[0] - before[0]) / 6) * way,
    from[1] + ((after[1] - before[1]) / 6) * way,
  ];
  const pieces = points.map((_, index) => {
    const a = third(at(index), at(index - 1), at(index + 1), 1);
    const b = third(at(index + 1), at(index), at(index + 2), -1);
    return `C${a.join(",")} ${b.join(",")} ${at(index + 1).join(",")}`;
  });
  return `M${at(0).join(",")}${pieces.join("")}Z`;
}

/** The same change to the points of every key, so that all keep as many. */
export function everywhere(value: number[] | Keys, change: (points: Point[]) => Point[]): unknown {
  if (!isKeys(value)) return asValues(change(asPoints(value)));
  return { keys: value.keys.map(([at, points, ease]) => [at, asValues(change(asPoints(points as number[]))), ease]) };
}

/** With a point more, half-way to the next one. */
export const withPointAfter =
  (index: number) =>
  (points: Point[]): Point[] => {
    const next = points[(index + 1) % points.length] as Point;
    return [...points.slice(0, index + 1), mean([points[index] as Point, next]), ...points.slice(index + 1)];
  };
