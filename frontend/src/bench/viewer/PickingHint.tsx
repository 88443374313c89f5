import { X } from "lucide-react";
import { useEffect } from "react";
import { nameOfMatte, type Picking, useSession } from "../session";

const WORDS: Record<Exclude<Picking["what"], "spot">, string> = {
  near: "touch the nearest thing that belongs to it",
  far: "touch the farthest thing that belongs to it",
  colour: "touch the colour",
  shape: "click point after point; the first one, or Enter, closes it",
};

/** What the next click in the picture is for. */
export function PickingHint({ picking }: { picking: Picking }) {
  const set = useSession((s) => s.set);
  useEffect(() => {
    const key = (event: KeyboardEvent) => {
      if (event.key !== "Escape") return;
      event.stopPropagation();
      set({ picking: null });
    };
    window.addEventListener("keydown", key, true);
    return () => window.removeEventListener("keydown", key, true);
  }, [set]);
  return (
    <div
      role="status"
      className="absolute top-2 left-1/2 flex -translate-x-1/2 items-center gap-2 rounded-sm border border-lilac/60 bg-panel/95 px-2.5 py-1"
    >
      {picking.matte && <b className="text-lilac">{nameOfMatte(picking.matte)}</b>}
      <span>{picking.what === "spot" ? picking.words : WORDS[picking.what]}</span>
      <button
        type="button"
        aria-label="Stop asking"
        title="stop asking (Esc)"
        className="text-quiet hover:text-text"
        onPointerDown={(event) => event.stopPropagation()}
        onPointerUp={(event) => event.stopPropagation()}
        onClick={() => set({ picking: null })}
      >
        <X size={13} />
      </button>
    </div>
  );
}
