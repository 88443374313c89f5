import { isKeys, valueAt } from "../api/document";

/** The frames of a shot, and the one that is looked at. */
export type Span = { first: number; last: number; frame: number };

type GraphProps = { value: unknown; span: Span; soft: [number, number]; label: string; onToggle?: () => void };

/** The value over the shot, flat when constant; a click sets a key here or takes the one that is here away. */
export function ValueGraph({ value, span, soft, label, onToggle }: GraphProps) {
  const keyed = isKeys(value);
  const here = keyed && value.keys.some(([frame]) => frame === span.frame);
  const width = Math.max(1, span.last - span.first);
  const points = keyed
    ? Array.from({ length: 31 }, (_, i) => {
        const frame = span.first + (width * i) / 30;
        const at = (valueAt(value as unknown as number, frame) - soft[0]) / (soft[1] - soft[0]);
        return `${(i / 30) * 58},${6 - Math.min(1, Math.max(0, at)) * 5}`;
      }).join(" ")
    : "0,5 58,5";
  return (
    <button
      type="button"
      onClick={onToggle}
      disabled={!onToggle}
      aria-label={here ? `Remove the key of ${label} at this frame` : `Set a key of ${label} at this frame`}
      title={here ? "remove the key here (K in the number)" : "set a key here (K in the number)"}
      className="absolute inset-x-0 -bottom-[1px] h-[8px] opacity-100! hover:bg-raised focus-visible:bg-raised"
    >
      <svg viewBox="0 0 58 7" preserveAspectRatio="none" className="h-full w-full" aria-hidden="true">
        <polyline
          points={points}
          fill="none"
          stroke={keyed ? "var(--color-verdigris)" : "var(--color-line)"}
          strokeWidth={keyed ? 1.4 : 1}
          vectorEffect="non-scaling-stroke"
        />
        {keyed && (
          <rect
            x={((span.frame - span.first) / width) * 56}
            y="0"
            width={here ? 3 : 1}
            height="7"
            fill="var(--color-text)"
          />
        )}
      </svg>
    </button>
  );
}
