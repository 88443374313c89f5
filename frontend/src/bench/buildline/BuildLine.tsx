import { closestCenter, DndContext, type DragEndEvent, PointerSensor, useSensor, useSensors } from "@dnd-kit/core";
import { horizontalListSortingStrategy, SortableContext } from "@dnd-kit/sortable";
import { CornerLeftUp, Plus } from "lucide-react";
import { Fragment, useEffect, useRef } from "react";
import { Button, IconButton } from "../../controls/Button";
import { useSessionParts } from "../session";
import { buildOf, buildPath, bundleOf, cardName, cardsOf } from "../shotParts";
import { AddCard } from "./AddCard";
import { Sheet } from "./Sheet";

/** The cards in order, backmost first: overlapping sheets that each show the picture as it stands after them. */
export function BuildLine({ onAddSource }: { onAddSource: () => void }) {
  const { shot, inside, openCard, edit, set } = useSessionParts("shot", "inside", "openCard", "edit", "set");
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const line = useRef<HTMLDivElement>(null);
  const cards = buildOf(shot, inside);

  // the open card is in sight
  useEffect(() => {
    if (!openCard) return;
    const sheet = line.current?.querySelector(`[data-card="${CSS.escape(openCard)}"]`);
    sheet?.scrollIntoView({ inline: "nearest", block: "nearest" });
  }, [openCard]);

  const dropped = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const from = cards.findIndex((card) => card.id === active.id);
    const to = cards.findIndex((card) => card.id === over.id);
    const before = cards[to > from ? to + 1 : to]?.id ?? null;
    edit(
      [{ op: "move", path: [...buildPath(shot, inside), String(active.id)], before }],
      `move card ${cardName(shot, String(active.id))}`,
    );
  };
  return (
    <section
      className={`flex h-[142px] shrink-0 items-start border-t bg-[#1b1b1c] px-3 pt-4 ${inside ? "border-verdigris/60" : "border-line"}`}
      aria-label="Build line"
    >
      {inside && (
        <div className="mr-3 flex h-[84px] w-[104px] shrink-0 flex-col justify-between border-r border-line pr-3">
          <span className="text-quiet">
            inside <b className="text-text">{cardName(shot, inside)}</b>
          </span>
          <Button
            className="justify-center px-1!"
            onClick={() => set({ inside: bundleOf(shot, inside), openCard: inside, marked: [], standing: null })}
          >
            <CornerLeftUp size={13} /> Back out
          </Button>
        </div>
      )}
      <EndMark text="back" />
      <div ref={line} className="flex min-w-0 overflow-x-auto pt-[2px] pl-[2px] [scrollbar-width:none]">
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
              <Fragment key={card.id}>
                <Between name={card.id} onAddSource={onAddSource} first={index === 0} />
                <Sheet card={card} index={index} />
              </Fragment>
            ))}
          </SortableContext>
        </DndContext>
        {shot && cardsOf(shot).length === 0 && (
          <p className="pt-7 text-quiet">
            No cards yet: drop a render or a plate on the page, or add a card to begin the build.
          </p>
        )}
        <div className="pt-7 pl-3">
          <AddCard
            onAddSource={onAddSource}
            trigger={
              <IconButton label="Add a card at the front">
                <Plus size={14} />
              </IconButton>
            }
          />
        </div>
      </div>
      <span className="flex-1" />
      <EndMark text="front" />
    </section>
  );
}

/** A seam between two sheets: a new card can be put there. */
function Between({ name, onAddSource, first }: { name: string; onAddSource: () => void; first: boolean }) {
  return (
    <span className="group relative z-30 w-0 shrink-0">
      <AddCard
        onAddSource={onAddSource}
        before={name}
        trigger={
          <button
            type="button"
            aria-label={`Add a card behind ${name}`}
            title="add a card here"
            className={`absolute top-[3px] size-[17px] rounded-full border border-line bg-panel text-quiet opacity-0 hover:border-verdigris hover:text-verdigris focus-visible:opacity-100 data-[state=open]:opacity-100 [section:hover_&]:opacity-60 [section:hover_&]:hover:opacity-100 ${first ? "left-[3px]" : "-left-[9px]"}`}
          >
            <Plus size={11} className="mx-auto" />
          </button>
        }
      />
    </span>
  );
}

const EndMark = ({ text }: { text: string }) => (
  <span className="mr-2 h-[84px] shrink-0 rotate-180 text-center text-[11px] text-faint [writing-mode:vertical-rl]">
    {text}
  </span>
);
