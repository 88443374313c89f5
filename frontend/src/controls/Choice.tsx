type Props<Value extends string> = {
  label: string;
  value: Value;
  options: readonly (readonly [Value, string])[];
  onChange: (value: Value) => void;
};

/** One of several by a list that opens, under its name. */
export function Choice<Value extends string>({ label, value, options, onChange }: Props<Value>) {
  return (
    <label className="flex flex-col gap-1 text-quiet">
      {label}
      <select
        value={value}
        onChange={(event) => onChange(event.target.value as Value)}
        className="h-7 w-full min-w-0 rounded-sm bg-control px-2 text-text"
      >
        {options.map(([key, text]) => (
          <option key={key} value={key}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
}
