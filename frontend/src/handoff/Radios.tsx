type RadioProps<Value extends string> = {
  name: string;
  choices: [Value, string][];
  value: Value;
  off?: (value: Value) => boolean;
  onPick: (value: Value) => void;
};

/** One of a few choices, one below the other. */
export function Radios<Value extends string>({ name, choices, value, off, onPick }: RadioProps<Value>) {
  return choices.map(([one, label]) => (
    <label key={one} className="flex items-center gap-2">
      <input
        type="radio"
        name={name}
        className="accent-verdigris"
        checked={value === one}
        disabled={off?.(one)}
        onChange={() => onPick(one)}
      />
      {label}
    </label>
  ));
}
