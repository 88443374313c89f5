import { RotateCcw } from "lucide-react";
import { isKeys, toggleKey, valueAt, withValue } from "../../api/document";
import type { Field } from "../../api/models";
import { Hint } from "../../controls/Button";
import { NumberField } from "../../controls/NumberField";
import { type Edit, useSessionParts } from "../session";
import { documentOf } from "../shotParts";
import { ColourWell } from "./ColourWell";

type Props = {
  path: string[];
  name: string;
  value: unknown;
  field: Field;
  letters: string[];
  /** Where the model has no default of its own. */
  fallback?: number[];
  /** Each lies between this and its negative. */
  bound?: number;
  /** Edits that have to come first, as with a single number. */
  first?: Edit[];
  /** They are a colour: it is shown, and chosen by eye or from the picture. */
  well?: boolean;
};

/** A few numbers that belong together, side by side and keyed as one. */
export function NumbersField({
  path,
  name,
  value,
  field,
  letters,
  fallback: given,
  bound = 1000,
  first: before = [],
  well,
}: Props) {
  const { shot, frame, edit, preview } = useSessionParts("shot", "frame", "edit", "preview");
  if (!shot) return null;
  const fallback = given ?? (field.default as number[]);
  const current = (value ?? fallback) as number[];
  const now = valueAt(current, frame);
  const { first, last } = documentOf(shot).format;
  const put = (next: unknown): Edit[] => [...before, { op: "set", path, value: next }];
  const at = (index: number, next: number) => {
    const numbers = now.map((old, i) => (i === index ? next : old));
    return put(withValue(current, frame, numbers));
  };
  const title = field.title ?? name;
  const toggle = () => edit(put(toggleKey(current, frame)), `key of ${name} at ${frame}`);
  return (
    <div className="grid h-[27px] grid-cols-[78px_1fr_16px] items-center gap-2">
      <Hint text={field.formula ? `${title}: ${field.formula}` : title}>
        <button
          type="button"
          className={`truncate text-left ${isKeys(value) ? "text-verdigris" : "text-quiet"}`}
          title="set or remove a key here"
          onClick={toggle}
        >
          {title}
        </button>
      </Hint>
      <div className="flex min-w-0 gap-[3px]">
        {well && (
          <ColourWell
            label={title}
            colour={now}
            onPreview={(next) => preview(put(withValue(current, frame, next)))}
            onCommit={(next) => edit(put(withValue(current, frame, next)), `${name} chosen`)}
          />
        )}
        {letters.map((letter, index) => (
          <NumberField
            key={letter}
            compact
            label={`${title} ${letter}`}
            unit={field.unit}
            value={now[index]}
            fallback={fallback[index] ?? 0}
            low={-bound}
            high={bound}
            soft={field.soft ?? [0, 2]}
            step={field.step ?? 0.01}
            span={isKeys(value) ? undefined : { first, last, frame }}
            onToggleKey={toggle}
            onPreview={(next) => preview(at(index, next))}
            onCommit={(next) => edit(at(index, next), `${name} ${letter} ${Number(next.toFixed(3))}`)}
          />
        ))}
      </div>
      <button
        type="button"
        aria-label={`Reset ${title}`}
        disabled={value === undefined}
        onClick={() => edit([{ op: "set", path, value: null }], `reset ${name}`)}
        className={`text-faint hover:text-text ${value === undefined ? "invisible" : ""}`}
      >
        <RotateCcw size={12} />
      </button>
    </div>
  );
}
