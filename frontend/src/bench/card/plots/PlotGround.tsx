import { Histogram } from "./Histogram";

/** What a plot of values against values lies on: the histogram of what is treated, a grid, and the line that changes nothing. */
export function PlotGround({ counts, width, height }: { counts?: number[][]; width: number; height: number }) {
  return (
    <>
      <Histogram counts={counts} width={width} height={height} />
      {[0.25, 0.5, 0.75].map((t) => (
        <g key={t} className="stroke-line/60">
          <line x1={t * width} x2={t * width} y1={0} y2={height} />
          <line x1={0} x2={width} y1={t * height} y2={t * height} />
        </g>
      ))}
      <line x1={0} y1={height} x2={width} y2={0} className="stroke-line" strokeDasharray="3 3" />
    </>
  );
}
