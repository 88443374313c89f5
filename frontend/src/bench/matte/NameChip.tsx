import { Pencil, X } from "lucide-react";
import { useState } from "react";
import { useDisplayNames } from "../useDisplayNames";
import { lastPart } from "./names";

type Props = { name: string; alone: boolean; onOut: () => void };

/** A name of a matte by its display name; the name in the file is told beside it. A pattern has no name of its own. */
export function NameChip({ name, alone, onOut }: Props) {
  const { shown, rename } = useDisplayNames();
  const [text, setText] = useState<string | null>(null);
  const display = shown(name);
  const commit = () => {
    if (text !== null && text.trim() !== display) rename(name, text.trim() === name ? "" : text.trim());
    setText(null);
  };
  if (text !== null)
    return (
      <li className="w-full">
        <input
          ref={(input) => input?.focus()}
          aria-label={`What to call ${name}`}
          placeholder={name}
          className="h-[22px] w-full rounded-sm bg-control px-1.5"
          value={text}
          onChange={(event) => setText(event.target.value)}
          onBlur={commit}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === "Enter") event.currentTarget.blur();
            if (event.key === "Escape") setText(null);
          }}
        />
      </li>
    );
  return (
    <li className="group flex h-[22px] items-center gap-1 rounded-sm bg-lilac-ground pr-0.5 pl-1.5 text-lilac">
      <span className="max-w-[190px] truncate" title={display === name ? name : `${name} in the file`}>
        {lastPart(display)}
      </span>
      {!name.includes("*") && (
        <button
          type="button"
          aria-label={`Call ${name} something else`}
          title="call it something else in this show"
          className="hidden rounded-sm p-0.5 hover:bg-control group-focus-within:block group-hover:block"
          onClick={() => setText(display === name ? "" : display)}
        >
          <Pencil size={10} />
        </button>
      )}
      <button
        type="button"
        aria-label={`Take ${name} out`}
        disabled={alone}
        className="rounded-sm p-0.5 hover:bg-control disabled:opacity-30"
        onClick={onOut}
      >
        <X size={11} />
      </button>
    </li>
  );
}
