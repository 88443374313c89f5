type Props<Value extends string> = {
  label: string;
  name: string;
  choices: { value: Value; text: string; title?: string; off?: boolean }[];
  value: Value | undefined;
  onPick: (value: Value) => void;
  className?: string;
  /** How one choice looks; the chosen one is lilac, as all that is about mattes, unless it is `plain`. */
  shape?: string;
  plain?: boolean;
};

/** A few choices side by side, of which one holds: radio buttons under their names, so that arrow keys walk them. */
export function Segments<Value extends string>({
  label,
  name,
  choices,
  value,
  onPick,
  className,
  shape,
  plain,
}: Props<Value>) {
  const chosen = plain ? "bg-raised text-text" : "bg-lilac-ground text-lilac";
  return (
    <div className={className ?? "flex shrink-0 rounded-sm bg-control p-[2px]"} role="radiogroup" aria-label={label}>
      {choices.map((one) => (
        <label
          key={one.value}
          title={one.title}
          className={`relative flex items-center rounded-sm px-2 text-[11.5px] has-[:focus-visible]:outline-2 has-[:focus-visible]:outline-verdigris ${shape ?? "h-[22px]"} ${one.value === value ? chosen : "text-quiet hover:text-text"} ${one.off ? "opacity-40" : ""}`}
        >
          <input
            type="radio"
            name={name}
            checked={one.value === value}
            disabled={one.off}
            onChange={() => onPick(one.value)}
            className="absolute inset-0 cursor-pointer opacity-0"
          />
          <span className="truncate">{one.text}</span>
        </label>
      ))}
    </div>
  );
}
