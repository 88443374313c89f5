import {
  backBy,
  type Matrix,
  matrixOf,
  moveFor,
  type Numbers,
  type Point,
  pair,
  rounded,
  through,
} from "./placingMath";

/** What of a placed card can be taken hold of. */
export type Grip = "move" | "scale" | "wide" | "high" | "turn" | "about";

const STEPS_OF_TURN = 15; // degrees that a turn is drawn to
const NEAR_STEP = 2; // from so near

const less = (a: Point, b: Point): Point => [a[0] - b[0], a[1] - b[1]];
const plus = (a: Point, b: Point): Point => [a[0] + b[0], a[1] + b[1]];
const angle = ([x, y]: Point) => (Math.atan2(-y, x) * 180) / Math.PI;

/**
 * What a drag from one place of the frame to another makes of the numbers that it began with. `free` holds on to nothing;
 * `snap` says by how much what was moved is to move on to lie on a line.
 */
export function dragged(
  what: Grip,
  from: Numbers,
  parent: Matrix,
  [start, end]: [Point, Point],
  free: boolean,
  snap: (moved: Numbers) => Point,
): Partial<Numbers> {
  const way = backBy(parent, less(end, start));
  if (what === "move") {
    const move = plus(from.move, way);
    if (free) return { move: pair(move) };
    const more = backBy(parent, snap({ ...from, move }));
    // where nothing holds it, whole pixels keep it sharp
    return { move: [held(move[0], more[0]), held(move[1], more[1])] };
  }
  if (what === "about") return aboutBy(from, backBy(matrixOf(from), way), 10);
  const place = through(parent, plus(from.about, from.move));
  const [one, two] = [less(start, place), less(end, place)];
  if (what === "turn") {
    const turn = from.turn + ((angle(two) - angle(one) + 540) % 360) - 180;
    const step = Math.round(turn / STEPS_OF_TURN) * STEPS_OF_TURN;
    return { turn: rounded(!free && Math.abs(turn - step) < NEAR_STEP ? step : turn, 10) };
  }
  if (what === "scale") return scaledBy(from, Math.hypot(...two) / Math.max(1, Math.hypot(...one)));
  const back = (point: Point) => backBy(matrixOf({ ...from, scale: [1, 1] }), backBy(parent, point));
  const index = what === "wide" ? 0 : 1;
  const k = (back(two)[index] as number) / (back(one)[index] || 1e-6);
  const scale: Point = [...from.scale];
  scale[index] = rounded((from.scale[index] as number) * k, 1000) || 0.001;
  return { scale };
}

/** What an arrow key makes of them; `by` is its way, in steps. */
export function stepped(what: Grip, now: Numbers, by: Point): Partial<Numbers> {
  if (what === "turn") return { turn: rounded(now.turn - (by[0] + by[1]) * 0.5, 10) };
  if (what === "move") return { move: pair(plus(now.move, by)) };
  if (what === "about") return aboutBy(now, by, 100);
  return scaledBy(now, 1.01 ** (by[0] - by[1]));
}

const held = (value: number, more: number): number => (more ? rounded(value + more) : Math.round(value));

const scaledBy = ({ scale }: Numbers, k: number) => ({ scale: pair([scale[0] * k, scale[1] * k], 1000) });

/** Another point that it turns about, while it stays where it is. */
function aboutBy(now: Numbers, by: Point, step: number): Partial<Numbers> {
  const about = pair(plus(now.about, by), step);
  return { about, move: pair(moveFor(now, about), 1000) };
}
