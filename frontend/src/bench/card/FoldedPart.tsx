import { ChevronDown, ChevronRight } from "lucide-react";
import type { ReactNode } from "react";

type Props = { name: string; said: string; open: boolean; wide?: boolean; onToggle: () => void; children: ReactNode };

/** A part of the card's panel: its name, what it says in a few words, and all of it when it is opened. `wide`: in one column with numbers. */
export function FoldedPart({ name, said, open, wide, onToggle, children }: Props) {
  return (
    <>
      <button
        type="button"
        aria-expanded={open}
        onClick={onToggle}
        className="flex h-[26px] w-full items-center gap-2 text-left"
      >
        <span className={`${wide ? "w-[78px]" : "w-[52px]"} shrink-0 text-quiet`}>{name}</span>
        <span className="min-w-0 flex-1 truncate">{said}</span>
        {open ? <ChevronDown size={13} className="text-quiet" /> : <ChevronRight size={13} className="text-quiet" />}
      </button>
      {open && children}
    </>
  );
}
