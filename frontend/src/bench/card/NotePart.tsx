import { StickyNote } from "lucide-react";
import { useState } from "react";
import type { Card } from "../../api/document";
import { useSessionParts } from "../session";
import { pathOf, shownName } from "../shotParts";

/** What somebody wrote down about the card. */
export function NotePart({ card }: { card: Card }) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const [writing, setWriting] = useState(false);
  const save = (text: string) => {
    setWriting(false);
    const value = text.trim() || null;
    if (value !== (card.note ?? null))
      edit([{ op: "set", path: [...pathOf(shot, card.id), "note"], value }], `note on ${shownName(card)}`);
  };
  if (writing)
    return (
      <textarea
        aria-label="Note on the card"
        // biome-ignore lint/a11y/noAutofocus: it was just asked for
        autoFocus
        defaultValue={card.note ?? ""}
        rows={3}
        className="mx-3 mt-2 mb-1 rounded-sm border border-line bg-ground px-2 py-1"
        onBlur={(event) => save(event.currentTarget.value)}
        onKeyDown={(event) => {
          if (event.key === "Escape") setWriting(false);
          else if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) save(event.currentTarget.value);
          event.stopPropagation();
        }}
      />
    );
  return (
    <button
      type="button"
      title={card.note ? "click to change the note" : undefined}
      onClick={() => setWriting(true)}
      className={`mx-3 mt-2 mb-1 flex items-start gap-1.5 text-left text-[11.5px] ${card.note ? "text-text" : "text-faint hover:text-text"}`}
    >
      <StickyNote size={12} className="mt-[2px] shrink-0 text-quiet" />
      <span className="whitespace-pre-wrap">{card.note ?? "add a note"}</span>
    </button>
  );
}
