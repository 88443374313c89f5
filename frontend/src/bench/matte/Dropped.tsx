import { X } from "lucide-react";
import { useEffect, useRef } from "react";
import { Button, IconButton } from "../../controls/Button";
import { nameOfMatte } from "../session";
import { combine, type How } from "./useCombine";

const CHOICES: [How, string][] = [
  ["all_of", "crossed"],
  ["any_of", "together"],
  ["except", "without"],
];

/** What becomes of a matte that was dropped on another. */
export function Dropped({ parts, onDone }: { parts: [string, string]; onDone: () => void }) {
  const place = useRef<HTMLFieldSetElement>(null);
  const [moved, onto] = parts;
  const [movedName, ontoName] = [nameOfMatte(moved), nameOfMatte(onto)];
  useEffect(() => place.current?.querySelector<HTMLButtonElement>("[data-first]")?.focus(), []);
  return (
    <fieldset
      ref={place}
      aria-label={`Combine ${ontoName} and ${movedName}`}
      className="mb-1 rounded-sm border border-lilac/50 bg-panel p-1.5"
      onKeyDown={(event) => {
        if (event.key !== "Escape") return;
        event.stopPropagation();
        onDone();
      }}
    >
      <div className="mb-1 flex items-center text-[11px]">
        <span className="min-w-0 truncate">
          {ontoName} <span className="text-quiet">and</span> {movedName}
        </span>
        <IconButton label="Leave them apart" shortcut="Esc" look="ghost" className="ml-auto h-5!" onClick={onDone}>
          <X size={12} />
        </IconButton>
      </div>
      <div className="grid grid-cols-3 gap-1">
        {CHOICES.map(([how, text]) => (
          <Button
            key={how}
            data-first={how === CHOICES[0]?.[0] || undefined}
            className="h-6! justify-center px-1! text-[11.5px]"
            title={how === "except" ? `${ontoName} without ${movedName}` : undefined}
            onClick={() => {
              onDone();
              combine(how, [onto, moved]);
            }}
          >
            {text}
          </Button>
        ))}
      </div>
    </fieldset>
  );
}
