export type Point = [number, number];

/** Slopes of a monotone cubic at its points (Fritsch and Butland, 1984): for drawing only, the core has its own. */
function slopesOf(points: Point[]): number[] {
  const h = points.slice(1).map(([x], i) => x - (points[i] as Point)[0]);
  const d = points.slice(1).map(([, y], i) => (y - (points[i] as Point)[1]) / (h[i] as number));
  const end = (h0: number, h1: number, d0: number, d1: number) => {
    const slope = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1);
    if (Math.sign(slope) !== Math.sign(d0)) return 0;
    return Math.sign(d0) !== Math.sign(d1) && Math.abs(slope) > 3 * Math.abs(d0) ? 3 * d0 : slope;
  };
  const n = points.length;
  if (n === 2) return [d[0] as number, d[0] as number];
  const at = (list: number[], i: number) => list[i] as number;
  return points.map((_, i) => {
    if (i === 0) return end(at(h, 0), at(h, 1), at(d, 0), at(d, 1));
    if (i === n - 1) return end(at(h, n - 2), at(h, n - 3), at(d, n - 2), at(d, n - 3));
    const [before, after] = [at(d, i - 1), at(d, i)];
    if (before * after <= 0) return 0;
    const [w1, w2] = [2 * at(h, i) + at(h, i - 1), at(h, i) + 2 * at(h, i - 1)];
    return (w1 + w2) / (w1 / before + w2 / after);
  });
}

/** The curve through some points, straight beyond them. */
export function curveThrough(points: Point[]): (x: number) => number {
  const slopes = slopesOf(points);
  return (x) => {
    const [first, last] = [points[0] as Point, points.at(-1) as Point];
    if (x <= first[0]) return first[1] + (x - first[0]) * (slopes[0] as number);
    if (x >= last[0]) return last[1] + (x - last[0]) * (slopes.at(-1) as number);
    const i = points.findIndex(([at]) => at > x) - 1;
    const [[x0, y0], [x1, y1]] = [points[i] as Point, points[i + 1] as Point];
    const t = (x - x0) / (x1 - x0);
    const [m0, m1] = [(slopes[i] as number) * (x1 - x0), (slopes[i + 1] as number) * (x1 - x0)];
    return (
      y0 * (2 * t ** 3 - 3 * t ** 2 + 1) +
      m0 * (t ** 3 - 2 * t ** 2 + t) +
      y1 * (3 * t ** 2 - 2 * t ** 3) +
      m1 * (t ** 3 - t ** 2)
    );
  };
}
