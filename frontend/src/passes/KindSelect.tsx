import { useModels } from "../api/models";

type Props = { value: string; label: string; className: string; onChange: (kind: string) => void };

/** The kind of a pass, out of all there are. */
export function KindSelect({ value, label, className, onChange }: Props) {
  const kinds = useModels()?.pass_kinds ?? [value];
  return (
    <select
      value={value}
      onChange={(event) => onChange(event.target.value)}
      aria-label={label}
      className={`rounded-sm ${className}`}
    >
      {kinds.map((kind) => (
        <option key={kind} value={kind}>
          {kind.replaceAll("_", " ")}
        </option>
      ))}
    </select>
  );
}
