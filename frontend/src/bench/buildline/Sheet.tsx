import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { Layers, StickyNote } from "lucide-react";
import type { MouseEvent } from "react";
import type { Card } from "../../api/document";
import { useModels } from "../../api/models";
import { Thumb } from "../../controls/Thumb";
import { LostMark } from "../../lost/LostMark";
import { useLost } from "../../lost/useLost";
import { FindingMark } from "../../passes/FindingMark";
import { useFindings, warningOf } from "../../passes/useCheckup";
import { useSession, useSessionParts } from "../session";
import { buildOf, cardsOf, insideOf, shownName } from "../shotParts";
import { useRestingFrame } from "../useRestingFrame";
import { thumbAddress } from "../viewer/looks";
import { CardFinding } from "./CardFinding";

/** One card: the picture so far after it. */
export function Sheet({ card, index }: { card: Card; index: number }) {
  const { shot, openCard, standing, marked, inside, set } = useSessionParts(
    "shot",
    "openCard",
    "standing",
    "marked",
    "inside",
    "set",
  );
  // one that was only just made has no picture before the server knows it
  const saved = useSession((s) => cardsOf(s.saved).some((one) => one.id === card.id));
  const frame = useRestingFrame();
  const models = useModels();
  const findings = useFindings();
  const lost = useLost().find((one) => one.card === card.id);
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: card.id });
  if (!shot) return null;
  const open = openCard === card.id;
  const stood = standing === card.id;
  const off = card.enabled === false;
  const chosen = marked.includes(card.id);
  const inner = insideOf(card);

  /** A click opens; with Ctrl it is chosen as well, with Shift all up to it are. */
  const clicked = (event: MouseEvent) => {
    const here = buildOf(shot, inside).map((one) => one.id);
    const others = marked.length ? marked : openCard && here.includes(openCard) ? [openCard] : [];
    if (event.shiftKey) {
      const [a, b] = [here.indexOf(openCard ?? card.id), here.indexOf(card.id)].sort((x, y) => x - y);
      set({ marked: here.slice(a, (b ?? 0) + 1), openMatte: null });
    } else if (event.ctrlKey || event.metaKey) {
      set({ marked: chosen ? others.filter((id) => id !== card.id) : [...others, card.id], openMatte: null });
    } else set({ openCard: card.id, openMatte: null, marked: [] });
  };
  const join = models?.joins.find((known) => known.kind === (card.join ?? "over"))?.title ?? card.join;
  return (
    <div
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition, zIndex: isDragging ? 40 : index + 1 }}
      data-card={card.id}
      className={`relative w-[148px] shrink-0 ${index ? "-ml-2" : ""}`}
    >
      <button
        type="button"
        {...attributes}
        {...listeners}
        aria-label={`Card ${shownName(card)}${off ? ", off" : ""}${chosen ? ", chosen" : ""}${stood ? ", standing here" : ""}`}
        aria-pressed={open}
        onClick={clicked}
        onDoubleClick={() => set({ standing: stood ? null : card.id, lookingAt: { kind: "picture" } })}
        title="click to open, double-click to stand on it, drag to move, Ctrl or Shift click to choose several"
        className={`block h-[84px] w-full overflow-hidden border bg-stage shadow-[-5px_0_9px_#0008] ${card.treat ? "rounded-[18px_3px_3px_18px]" : "rounded-sm"} ${open || chosen ? "border-verdigris outline outline-1 outline-verdigris" : "border-line"}`}
      >
        {saved && (
          <Thumb
            address={thumbAddress(shot.id, {
              kind: "picture",
              card: card.id,
              revision: shot.revision,
              frame,
              scale: 8,
            })}
            alt=""
            className={`h-full w-full object-cover ${off ? "opacity-35" : ""}`}
          />
        )}
        <FindingMark finding={warningOf(findings, card.picture?.source)} size={12} />
        {lost ? <LostMark message={lost.message} /> : saved && <CardFinding card={card} />}
        {stood && (
          <span className="absolute right-1 bottom-[30px] rounded-[2px] bg-verdigris px-1.5 text-[10px] font-bold text-[#0f1f1a]">
            standing here
          </span>
        )}
      </button>
      <div className="flex items-baseline gap-2 pt-1.5 pr-4 pl-1">
        <span className={`truncate ${off ? "text-faint line-through" : ""}`}>{shownName(card)}</span>
        {card.note && <StickyNote size={11} className="shrink-0 self-center text-quiet" aria-label={card.note} />}
        {inner.length > 0 && (
          <button
            type="button"
            aria-label={`Open the inside of ${shownName(card)}: ${inner.length} cards`}
            title="open its inside"
            className="flex shrink-0 items-center gap-0.5 self-center text-[10.5px] text-quiet hover:text-verdigris"
            onClick={() => set({ inside: card.id, openCard: inner.at(-1)?.id ?? null, marked: [] })}
          >
            <Layers size={11} /> {inner.length}
          </button>
        )}
        <span className="ml-auto text-[10.5px] text-quiet">{card.treat ? "treat" : index ? join : ""}</span>
      </div>
    </div>
  );
}
