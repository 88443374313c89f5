type Props = { label: string; done: number; total: number; failed?: boolean };

/** How far something is, as a thin line. */
export function ProgressBar({ label, done, total, failed = false }: Props) {
  return (
    <div
      className="h-[3px] overflow-hidden rounded bg-line"
      role="progressbar"
      aria-label={label}
      aria-valuenow={done}
      aria-valuemin={0}
      aria-valuemax={total}
    >
      <div
        className={`h-full ${failed ? "bg-coral" : "bg-verdigris"}`}
        style={{ width: `${(100 * done) / Math.max(1, total)}%` }}
      />
    </div>
  );
}
