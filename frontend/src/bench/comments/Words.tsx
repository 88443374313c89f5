import { useState } from "react";
import { Button } from "../../controls/Button";

type Props = {
  label: string;
  action: string;
  placeholder?: string;
  first?: string;
  autoFocus?: boolean;
  onSay: (text: string) => Promise<boolean>;
  onGiveUp?: () => void;
};

const LONGEST = 4000;

/** A few lines to be said: Ctrl Enter says them, Escape gives them up. */
export function Words({ label, action, placeholder, first = "", autoFocus, onSay, onGiveUp }: Props) {
  const [text, setText] = useState(first);
  const [busy, setBusy] = useState(false);
  const wanted = text.trim();
  const say = async () => {
    if (!wanted || busy) return;
    setBusy(true);
    if (await onSay(wanted)) setText("");
    setBusy(false);
  };
  return (
    <div className="flex flex-col gap-1.5">
      <textarea
        aria-label={label}
        placeholder={placeholder}
        // biome-ignore lint/a11y/noAutofocus: it comes in answer to a wish to type
        autoFocus={autoFocus}
        rows={Math.min(8, Math.max(2, text.split("\n").length))}
        maxLength={LONGEST}
        className="w-full resize-none rounded-sm bg-control px-2 py-1.5"
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) say();
          else if (event.key === "Escape") {
            if (onGiveUp) onGiveUp();
            else event.currentTarget.blur();
          }
        }}
      />
      <div className="flex justify-end gap-1.5">
        {onGiveUp && (
          <Button look="ghost" onClick={onGiveUp}>
            Give up
          </Button>
        )}
        <Button look="primary" title="Ctrl Enter" disabled={!wanted || busy} onClick={say}>
          {action}
        </Button>
      </div>
    </div>
  );
}
