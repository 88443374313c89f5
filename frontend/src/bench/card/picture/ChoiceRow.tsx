type Props = {
  label: string;
  value: string;
  choices: (string | { value: string; text: string })[];
  onChoose: (value: string) => void;
};

/** A named choice of the card's panel; what is chosen but not there (any more) is shown as lost. */
export function ChoiceRow({ label, value, choices, onChoose }: Props) {
  const listed = choices.map((one) => (typeof one === "string" ? { value: one, text: one } : one));
  const there = listed.some((one) => one.value === value);
  return (
    <label className="grid h-[27px] grid-cols-[78px_1fr] items-center gap-2">
      <span className="truncate text-quiet">{label}</span>
      <select
        className={`h-[22px] min-w-0 rounded-sm bg-control px-2 ${there ? "" : "text-amber"}`}
        value={value}
        onChange={(event) => onChoose(event.target.value)}
      >
        {!there && <option value={value}>{value}: not there</option>}
        {listed.map((one) => (
          <option key={one.value} value={one.value}>
            {one.text}
          </option>
        ))}
      </select>
    </label>
  );
}
