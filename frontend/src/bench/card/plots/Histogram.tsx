const FILLS = ["fill-[#d98078]/30", "fill-[#86b87b]/30", "fill-[#7f9fd6]/30"];

/** The histogram behind a plot whose axis across is as a display shows light. */
export function Histogram({ counts, width, height }: { counts?: number[][]; width: number; height: number }) {
  if (!counts) return null;
  return (
    <g data-testid="histogram" className="pointer-events-none mix-blend-screen">
      {counts.map((channel, c) => {
        const line = channel.map((count, i) => {
          const x = ((i + 0.5) / channel.length) * width;
          return `L${x.toFixed(1)} ${(height - (count / 255) * height * 0.92).toFixed(1)}`;
        });
        // biome-ignore lint/suspicious/noArrayIndexKey: a channel is its place
        return <path key={c} d={`M0 ${height}${line.join("")}L${width} ${height}Z`} className={FILLS[c]} />;
      })}
    </g>
  );
}
