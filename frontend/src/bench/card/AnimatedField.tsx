import { toggleKey, withValue } from "../../api/document";
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

/** A number of the document: dragging previews, letting go saves; its graph sets keys. */
export function AnimatedField({ path, name, value, field, bounds, compact, first: given = [] }: Props) {
  const { shot, frame, edit, preview } = useSessionParts("shot", "frame", "edit", "preview");
  if (!shot) return null;
  const { first, last } = documentOf(shot).format;
  const fallback = typeof field.default === "number" ? field.default : 0;
  const current = value ?? fallback;
  const at = (next: unknown): Edit[] => [...given, { op: "set", path, value: next }];
  return (
    <NumberField
      compact={compact}
      label={field.title ?? name}
      value={value}
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
    />
  );
}
