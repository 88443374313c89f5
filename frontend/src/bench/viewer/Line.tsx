type Point = [number, number];

/** A line that is being drawn over the picture, to the cursor if it is not yet done. */
export function Line({ points, to = null, dots = false }: { points: Point[]; to?: Point | null; dots?: boolean }) {
  const all = to && points.length ? [...points, to] : points;
  return (
    <svg className="pointer-events-none absolute inset-0 size-full" aria-hidden="true">
      <polyline
        points={all.map((point) => point.join(",")).join(" ")}
        fill="none"
        stroke="var(--color-lilac)"
        strokeWidth={dots ? 1.5 : 2}
      />
      {dots &&
        points.map(([x, y], index) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: points have nothing but their order
          <circle key={index} cx={x} cy={y} r={index ? 3.5 : 5} className="fill-panel stroke-lilac" />
        ))}
    </svg>
  );
}
