type Props = { label: string; on: boolean; title?: string; onToggle: () => void };

/** A small square that is filled while something counts. */
export const OnSwitch = ({ label, on, title, onToggle }: Props) => (
  <button
    type="button"
    role="switch"
    aria-checked={on}
    aria-label={label}
    title={title}
    onClick={onToggle}
    className={`size-[9px] shrink-0 rounded-[2px] border ${on ? "border-verdigris bg-verdigris" : "border-faint"}`}
  />
);
