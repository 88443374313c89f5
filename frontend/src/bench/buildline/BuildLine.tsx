import { closestCenter, DndContext, type DragEndEvent, PointerSensor, useSensor, useSensors } from "@dnd-kit/core";
import { horizontalListSortingStrategy, SortableContext, useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import type { Card } from "../../api/document";
import { useModels } from "../../api/models";
import { Thumb } from "../../controls/Thumb";
import { LostMark } from "../../lost/LostMark";
import { useLost } from "../../lost/useLost";
import { FindingMark } from "../../passes/FindingMark";
import { useFindings, warningOf } from "../../passes/useCheckup";
import { useSession, useSessionParts } from "../session";
import { cardName, cardsOf, shownName } from "../shotParts";
import { useRestingFrame } from "../useRestingFrame";
import { thumbAddress } from "../viewer/looks";
import { AddCard } from "./AddCard";

/** The cards in order, backmost first: overlapping sheets that each show the picture as it stands after them. */
export function BuildLine({ onAddSource }: { onAddSource: () => void }) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const cards = cardsOf(shot);

  const dropped = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const from = cards.findIndex((card) => card.id === active.id);
    const to = cards.findIndex((card) => card.id === over.id);
    const before = cards[to > from ? to + 1 : to]?.id ?? null;
    edit(
      [{ op: "move", path: ["build", String(active.id)], before }],
      `move card ${cardName(shot, String(active.id))}`,
    );
  };
  return (
    <section
      className="flex h-[142px] shrink-0 items-start border-t border-line bg-[#1b1b1c] px-3 pt-4"
      aria-label="Build line"
    >
      <EndMark text="back" />
      <div className="flex min-w-0 overflow-x-auto pt-[2px] pl-[2px] [scrollbar-width:none]">
        <DndContext
          sensors={sensors}
          collisionDetection={closestCenter}
          onDragEnd={dropped}
          accessibility={{
            screenReaderInstructions: { draggable: "Drag it, or move the open card with Alt Shift ← →." },
          }}
        >
          <SortableContext items={cards.map((card) => card.id)} strategy={horizontalListSortingStrategy}>
            {cards.map((card, index) => (
              <Sheet key={card.id} card={card} index={index} />
            ))}
          </SortableContext>
        </DndContext>
        {shot && cards.length === 0 && (
          <p className="pt-7 text-quiet">
            No cards yet: drop a render or a plate on the page, or add a card to begin the build.
          </p>
        )}
        <AddCard onAddSource={onAddSource} />
      </div>
      <span className="flex-1" />
      <EndMark text="front" />
    </section>
  );
}

const EndMark = ({ text }: { text: string }) => (
  <span className="mr-2 h-[84px] shrink-0 rotate-180 text-center text-[11px] text-faint [writing-mode:vertical-rl]">
    {text}
  </span>
);

function Sheet({ card, index }: { card: Card; index: number }) {
  const { shot, openCard, standing, set } = useSessionParts("shot", "openCard", "standing", "set");
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
  const join = models?.joins.find((known) => known.kind === (card.join ?? "over"))?.title ?? card.join;
  return (
    <div
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition, zIndex: isDragging ? 40 : index + 1 }}
      className={`relative w-[148px] shrink-0 ${index ? "-ml-2" : ""}`}
    >
      <button
        type="button"
        {...attributes}
        {...listeners}
        aria-label={`Card ${shownName(card)}${off ? ", off" : ""}${stood ? ", standing here" : ""}`}
        aria-pressed={open}
        onClick={() => set({ openCard: card.id, openMatte: null })}
        onDoubleClick={() => set({ standing: stood ? null : card.id, lookingAt: { kind: "picture" } })}
        title="click to open, double-click to stand on it, drag to move"
        className={`block h-[84px] w-full overflow-hidden border bg-stage shadow-[-5px_0_9px_#0008] ${card.treat ? "rounded-[18px_3px_3px_18px]" : "rounded-sm"} ${open ? "border-verdigris outline outline-1 outline-verdigris" : "border-line"}`}
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
        {lost && <LostMark message={lost.message} />}
        {stood && (
          <span className="absolute right-1 bottom-[30px] rounded-[2px] bg-verdigris px-1.5 text-[10px] font-bold text-[#0f1f1a]">
            standing here
          </span>
        )}
      </button>
      <div className="flex items-baseline gap-2 pt-1.5 pr-4 pl-1">
        <span className={`truncate ${off ? "text-faint line-through" : ""}`}>{shownName(card)}</span>
        <span className="ml-auto text-[10.5px] text-quiet">{card.treat ? "treat" : index ? join : ""}</span>
      </div>
    </div>
  );
}
