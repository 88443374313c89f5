import type { Point } from "./placingMath";

export type Box = [number, number, number, number];
export type Guide = { way: "across" | "down"; at: number };

const NEAR = 6; // screen pixels

/** Lines of the frame and of other cards that something can be lined up with. */
export function linesOf(width: number, height: number, others: Box[]): Guide[] {
  const across = [0, width / 3, width / 2, (2 * width) / 3, width, ...others.flatMap(([x0, , x1]) => [x0, x1])];
  const down = [0, height / 3, height / 2, (2 * height) / 3, height, ...others.flatMap(([, y0, , y1]) => [y0, y1])];
  return [...across.map((at): Guide => ({ way: "across", at })), ...down.map((at): Guide => ({ way: "down", at }))];
}

/** By how much a box must move to lie on the nearest line, each way by itself, and the lines it lies on then. */
export function snapped(box: Box, lines: Guide[], zoom: number): { by: Point; on: Guide[] } {
  const by: Point = [0, 0];
  const on: Guide[] = [];
  for (const [index, way] of [
    [0, "across"],
    [1, "down"],
  ] as const) {
    const [low, high] = [box[index] as number, box[index + 2] as number];
    let best: { by: number; line: Guide } | null = null;
    for (const line of lines.filter((one) => one.way === way))
      for (const edge of [low, (low + high) / 2, high]) {
        const far = line.at - edge;
        if (Math.abs(far) * zoom < NEAR && (!best || Math.abs(far) < Math.abs(best.by))) best = { by: far, line };
      }
    if (best) {
      by[index] = best.by;
      on.push(best.line);
    }
  }
  return { by, on };
}
