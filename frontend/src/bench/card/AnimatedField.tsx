import { X } from "lucide-react";
import { type Flicker, isFlicker, toggleKey, withValue } from "../../api/document";
import type { Field } from "../../api/models";
import { NumberField } from "../../controls/NumberField";
import { type Edit, useSessionParts } from "../session";
import { documentOf } from "../shotParts";

type Props = {
  path: string[];
  name: string;
  value: unknown;
  field: Field;
  bounds: { low: number; high: number };
  compact?: boolean;
  /** Edits that have to come first, where the document does not have the part yet that this is a number of. */
  first?: Edit[];
};

const STARTS = { flicker: 0.3, every: 3 };

/** A number of the document: dragging previews, letting go saves; its graph sets keys; it may flicker. */
export function AnimatedField({ path, name, value, field, bounds, compact, first: given = [] }: Props) {
  const { shot, frame, edit, preview } = useSessionParts("shot", "frame", "edit", "preview");
  if (!shot) return null;
  const { first, last } = documentOf(shot).format;
  const fallback = typeof field.default === "number" ? field.default : 0;
  const flicker = isFlicker(value) ? value : null;
  const own = flicker ? flicker.of : value;
  const current = own ?? fallback;
  const at = (next: unknown): Edit[] => [
    ...given,
    { op: "set", path, value: flicker && next !== null ? { ...flicker, of: next } : next },
  ];
  return (
    <>
      <NumberField
        compact={compact}
        label={field.title ?? name}
        value={own}
        fallback={fallback}
        low={bounds.low}
        high={bounds.high}
        soft={field.soft ?? [0, 1]}
        step={field.step ?? 0.01}
        unit={field.unit}
        hint={field.formula}
        span={{ first, last, frame }}
        onPreview={(next) => preview(at(withValue(current, frame, next)))}
        onCommit={(next) => edit(at(withValue(current, frame, next)), `${name} ${Number(next.toFixed(3))}`)}
        onToggleKey={() => edit(at(toggleKey(current, frame)), `key of ${name} at ${frame}`)}
        onReset={() => edit(at(null), `reset ${name}`)}
        onFlicker={
          field.animated && !flicker && !compact
            ? () =>
                edit([...given, { op: "set", path, value: { ...STARTS, of: current, seed: 1 } }], `let ${name} flicker`)
            : undefined
        }
      />
      {flicker && !compact && <FlickerRow path={path} name={name} flicker={flicker} given={given} />}
    </>
  );
}

/** By how much a number flickers, and how fast. */
function FlickerRow({ path, name, flicker, given }: { path: string[]; name: string; flicker: Flicker; given: Edit[] }) {
  const { edit, preview } = useSessionParts("edit", "preview");
  const put = (part: Partial<Flicker>): Edit[] => [...given, { op: "set", path, value: { ...flicker, ...part } }];
  const number = (key: "flicker" | "every" | "seed", label: string, high: number, step: number) => (
    <NumberField
      compact
      label={`${label} of ${name}`}
      value={flicker[key]}
      fallback={key === "flicker" ? STARTS.flicker : key === "every" ? STARTS.every : 1}
      low={key === "every" ? 0.1 : 0}
      high={high}
      soft={[0, key === "flicker" ? 1 : 24]}
      step={step}
      onPreview={(next) => preview(put({ [key]: next }))}
      onCommit={(next) => edit(put({ [key]: key === "seed" ? Math.round(next) : next }), `flicker of ${name}`)}
    />
  );
  return (
    <section className="grid h-[27px] grid-cols-[78px_1fr_16px] items-center gap-2" aria-label={`Flicker of ${name}`}>
      <span
        className="truncate pl-2 text-[11px] text-verdigris"
        title="how far down, frames from change to change, seed"
      >
        flickers
      </span>
      <div className="flex min-w-0 gap-[3px]">
        {number("flicker", "Depth", 1, 0.01)}
        {number("every", "Frames", 1000, 0.5)}
        {number("seed", "Seed", 1e6, 1)}
      </div>
      <button
        type="button"
        aria-label={`Stop ${name} flickering`}
        className="text-faint hover:text-text"
        onClick={() => edit([...given, { op: "set", path, value: flicker.of }], `${name} without flicker`)}
      >
        <X size={12} />
      </button>
    </section>
  );
}
