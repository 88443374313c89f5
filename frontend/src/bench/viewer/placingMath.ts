import { isKeys, type Keys, valueAt } from "../../api/document";

export type Point = [number, number];
/** x' = a x + b y + c, y' = d x + e y + f. */
export type Matrix = [number, number, number, number, number, number];
export type Numbers = { move: Point; turn: number; scale: Point; about: Point };

export const through = ([a, b, c, d, e, f]: Matrix, [x, y]: Point): Point => [a * x + b * y + c, d * x + e * y + f];

export function times(m: Matrix, n: Matrix): Matrix {
  const [a, b, c, d, e, f] = m;
  return [
    a * n[0] + b * n[3],
    a * n[1] + b * n[4],
    a * n[2] + b * n[5] + c,
    d * n[0] + e * n[3],
    d * n[1] + e * n[4],
    d * n[2] + e * n[5] + f,
  ];
}

/** A way, not a place, taken back through a matrix. */
export function backBy([a, b, , d, e]: Matrix, [x, y]: Point): Point {
  const det = a * e - b * d || 1e-9;
  return [(e * x - b * y) / det, (a * y - d * x) / det];
}

/** A placing's numbers at a frame, with what stands where nothing is set. */
export function numbersOf(placing: Record<string, unknown>, frame: number, middle: Point): Numbers {
  const pair = (name: string, fallback: Point): Point => {
    const value = placing[name];
    if (value === undefined) return fallback;
    const now = valueAt(value as number | number[] | Keys, frame) as unknown as number | Point;
    return typeof now === "number" ? [now, now] : now;
  };
  return {
    move: pair("move", [0, 0]),
    turn: valueAt<number>((placing.turn ?? 0) as number | Keys, frame),
    scale: pair("scale", [1, 1]),
    about: pair("about", middle),
  };
}

/** Where those put a picture: scaled and turned about a point, counter-clockwise on the screen, then moved. */
export function matrixOf({ move, turn, scale, about }: Numbers): Matrix {
  const [cos, sin] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  const [a, b, d, e] = [cos * scale[0], sin * scale[1], -sin * scale[0], cos * scale[1]];
  const [x, y] = about;
  return [a, b, x - a * x - b * y + move[0], d, e, y - d * x - e * y + move[1]];
}

/** The move that leaves everything where it is when the point it is scaled and turned about becomes another. */
export function moveFor(numbers: Numbers, about: Point): Point {
  const [a, b, c, d, e, f] = matrixOf(numbers);
  return [c - about[0] + a * about[0] + b * about[1], f - about[1] + d * about[0] + e * about[1]];
}

/** Frames at which a move has keys, with where it is then. */
export const keysOf = (value: unknown): [number, Point][] =>
  isKeys(value) ? value.keys.map(([at, point]) => [at, point as Point]) : [];

/** Ways that arrow keys go. */
export const WAYS: Record<string, Point> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

export const rounded = (value: number, step = 100) => Math.round(value * step) / step;
export const pair = ([x, y]: Point, step = 100): Point => [rounded(x, step), rounded(y, step)];
