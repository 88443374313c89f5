import { useDraggable, useDroppable } from "@dnd-kit/core";
import { Flame, Layers2, Trash2 } from "lucide-react";
import { type CSSProperties, type MouseEvent, useCallback } from "react";
import type { Matte } from "../../api/document";
import { useModels } from "../../api/models";
import { IconButton } from "../../controls/Button";
import { counted } from "../../controls/counted";
import { frameSpan } from "../../controls/time";
import { LostMark } from "../../lost/LostMark";
import { useLost } from "../../lost/useLost";
import { nameOfMatte, useSessionParts } from "../session";
import { documentOf, mattesOf } from "../shotParts";
import { aspectOf } from "../tray/Section";
import { runsOf, told, useAreas } from "./useAreas";

type Props = { id: string; matte: Matte; uses: string[]; baked: boolean | null; picture: CSSProperties };

const [WIDEST, HIGHEST] = [50, 28]; // pixels of the small picture

/** A matte in the list: how it looks, what it is, how much it covers and when, and where it is used. */
export function MatteRow({ id, matte, uses, baked, picture }: Props) {
  const { shot, frame, lookingAt, chosen, set, edit } = useSessionParts(
    "shot",
    "frame",
    "lookingAt",
    "chosen",
    "set",
    "edit",
  );
  const { listeners, setNodeRef: dragged, transform, isDragging } = useDraggable({ id });
  const { setNodeRef: dropped, isOver } = useDroppable({ id });
  // one function for as long as the row lives: a new one would register the row anew at every drawing
  const place = useCallback(
    (node: HTMLElement | null) => {
      dragged(node);
      dropped(node);
    },
    [dragged, dropped],
  );
  const areas = useAreas(id);
  const lost = useLost().find((one) => one.matte === id);
  const models = useModels();
  if (!shot) return null;
  const aspect = aspectOf(shot);
  const on = lookingAt.kind !== "sum" && mattesOf(lookingAt).includes(id);
  const picked = chosen.includes(id);
  const choose = () => {
    const next = picked ? chosen.filter((one) => one !== id) : [...chosen, id];
    set({ chosen: next, ...(lookingAt.kind === "sum" ? { lookingAt: sumOf(next) } : {}) });
  };
  const click = (event: MouseEvent) => {
    if (event.ctrlKey || event.metaKey || event.shiftKey) choose();
    else if (on) set({ lookingAt: { kind: "picture" }, openMatte: null });
    else set({ lookingAt: { kind: "tint", name: id }, openMatte: id });
  };
  const kind = models?.mattes.find((one) => one.kind === matte.kind)?.title ?? matte.kind;
  const what = matte.kind === "combined" ? matte.how?.replace("_", " ") : (matte.layer?.replace(/_ids?$/, "") ?? kind);
  const { first, last } = documentOf(shot).format;
  const runs = areas.size === last - first + 1 ? runsOf(areas) : "";
  const here = areas.get(frame);
  const always = runs === frameSpan(first, last);
  const hint = [
    uses.length ? `used by ${uses.join("; ")}` : "not used yet",
    areas.size === last - first + 1 ? (always ? "there on every frame" : `there on ${runs || "no frame"}`) : "",
  ];
  return (
    <div
      ref={place}
      style={transform ? { transform: `translate(${transform.x}px, ${transform.y}px)` } : undefined}
      className={`group relative flex items-center gap-2 rounded-sm p-[3px] ${isDragging ? "z-10 bg-raised opacity-80" : on || picked ? "bg-lilac-ground" : "hover:bg-control"} ${isOver && !isDragging ? "outline outline-1 outline-lilac" : ""}`}
    >
      <button
        type="button"
        aria-pressed={on}
        onClick={click}
        {...listeners}
        className="flex min-w-0 flex-1 items-center gap-2 text-left"
        title={hint.filter(Boolean).join("\n")}
      >
        <span
          style={{ aspectRatio: aspect, width: Math.min(WIDEST, HIGHEST * aspect), ...picture }}
          className="shrink-0 rounded-[2px] border-l-2 border-lilac bg-stage"
        />
        <span className="min-w-0 flex-1">
          <span className="flex gap-1">
            <span className="truncate">{matte.name ?? id}</span>
            {lost && <LostMark message={lost.message} corner={false} />}
            {here != null && (
              <span className={`value ml-auto shrink-0 ${here ? "text-quiet" : "text-coral"}`}>{told(here)}</span>
            )}
          </span>
          <span className="flex items-center gap-1 truncate text-[10.5px] text-quiet">
            {baked !== null && (
              <Flame
                size={10}
                aria-label={baked ? "baked" : "changed since it was baked"}
                className={`shrink-0 ${baked ? "text-lilac" : "text-amber"}`}
              />
            )}
            {matte.kind === "combined" && <Layers2 size={10} className="shrink-0" />}
            <span className="truncate">
              {what} · {counted(uses.length, "use")}
              {runs && !always ? ` · ${runs}` : ""}
            </span>
          </span>
        </span>
      </button>
      <input
        type="checkbox"
        aria-label={`Choose ${matte.name ?? id}`}
        title="choose several: Ctrl-click"
        className={`absolute top-1.5 left-2 size-3.5 accent-lilac focus-visible:opacity-100 group-hover:opacity-100 ${picked ? "" : "opacity-0"}`}
        checked={picked}
        onChange={choose}
      />
      {uses.length === 0 && !picked && (
        <IconButton
          label={`Delete matte ${nameOfMatte(id)}`}
          look="ghost"
          className="absolute right-1 h-[24px]! w-[24px]! bg-control opacity-0 focus-visible:opacity-100 group-hover:opacity-100"
          onClick={() => edit([{ op: "remove", path: ["mattes", id] }], `delete matte ${nameOfMatte(id)}`)}
        >
          <Trash2 size={12} />
        </IconButton>
      )}
    </div>
  );
}

const sumOf = (names: string[]) =>
  names.length > 1 ? ({ kind: "sum", names } as const) : ({ kind: "picture" } as const);
