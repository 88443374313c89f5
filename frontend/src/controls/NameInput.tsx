import { type FocusEvent, useRef, useState } from "react";

type Props = {
  label: string;
  name: string;
  onName: (name: string) => void;
  className?: string;
  /** Given up, or done: for fields that are there only while somebody types. */
  onDone?: () => void;
  autoFocus?: boolean;
};

/** A name that is typed over: Enter or leaving takes it, Escape gives it up; the keys go back to the page after. */
export function NameInput({ label, name, onName, className = "", onDone, autoFocus }: Props) {
  const [text, setText] = useState<string | null>(null);
  const givenUp = useRef(false);
  const commit = () => {
    const wanted = text?.trim();
    setText(null);
    if (wanted && wanted !== name && !givenUp.current) onName(wanted);
    givenUp.current = false;
    onDone?.();
  };
  return (
    <input
      aria-label={label}
      // biome-ignore lint/a11y/noAutofocus: it comes in answer to a wish to type
      autoFocus={autoFocus}
      onFocus={(event: FocusEvent<HTMLInputElement>) => autoFocus && event.target.select()}
      maxLength={120}
      className={`min-w-0 rounded-sm bg-transparent px-1 hover:bg-control focus:bg-control ${className}`}
      value={text ?? name}
      onChange={(event) => setText(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === "Enter") event.currentTarget.blur();
        else if (event.key === "Escape") {
          givenUp.current = true;
          event.currentTarget.blur();
        }
      }}
      onClick={(event) => event.stopPropagation()}
    />
  );
}
