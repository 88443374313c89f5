import { closestCenter, DndContext, PointerSensor, useSensor, useSensors } from "@dnd-kit/core";
import { SortableContext, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { BookMarked, Plus } from "lucide-react";
import { useState } from "react";
import type { Card, Treatment } from "../../api/document";
import { type TreatmentModel, useModels } from "../../api/models";
import { Button } from "../../controls/Button";
import { Menu } from "../../controls/Menu";
import { useSessionParts } from "../session";
import { pathOf } from "../shotParts";
import { addedTreatment } from "./addedTreatment";
import { DoubledLight } from "./DoubledLight";
import { RecipesDialog } from "./recipes/RecipesDialog";
import { TreatmentRow } from "./TreatmentRow";

export function TreatmentList({ card }: { card: Card }) {
  const models = useModels();
  const treatments = card.treatments ?? [];
  const model = (kind: string) => models?.treatments.find((one) => one.kind === kind);
  const stages = models?.stages ?? [];
  return (
    <section className="border-t border-line px-3 py-2.5" aria-label="Treatments">
      <h3 className="heading mb-1 flex items-center">
        Treatments
        <span className="flex-1" />
        <Recipes card={card} />
        <AddTreatment card={card} />
      </h3>
      {treatments.length === 0 && (
        <p className="py-1 text-quiet">None yet. Add one, or touch something in the picture.</p>
      )}
      {stages.map((stage) => {
        const own = treatments.filter((treatment) => model(treatment.kind)?.stage === stage);
        return own.length ? <Stage key={stage} card={card} treatments={own} model={model} /> : null;
      })}
      <DoubledLight card={card} />
    </section>
  );
}

/** The treatments of one stage, in the order they are made; they change places among themselves only. */
function Stage(props: { card: Card; treatments: Treatment[]; model: (kind: string) => TreatmentModel | undefined }) {
  const { card, treatments, model } = props;
  const { shot, edit } = useSessionParts("shot", "edit");
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const all = card.treatments ?? [];
  const move = (from: number, to: number) => {
    const [own, other] = [treatments[from], treatments[to]];
    if (!own || !other || own === other) return;
    const before = to > from ? (all[all.indexOf(other) + 1]?.id ?? null) : other.id;
    edit(
      [{ op: "move", path: [...pathOf(shot, card.id), "treatments", own.id], before }],
      `move ${own.name ?? own.kind}`,
    );
  };
  const indexOf = (id: unknown) => treatments.findIndex((one) => one.id === id);
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={({ active, over }) => over && move(indexOf(active.id), indexOf(over.id))}
      accessibility={{ screenReaderInstructions: { draggable: "Drag it within its stage, or move it with Alt ↑ ↓." } }}
    >
      <SortableContext items={treatments.map((one) => one.id)} strategy={verticalListSortingStrategy}>
        {treatments.map((treatment, index) => (
          <TreatmentRow
            key={treatment.id}
            card={card}
            treatment={treatment}
            model={model(treatment.kind)}
            onStep={(by) => move(index, index + by)}
          />
        ))}
      </SortableContext>
    </DndContext>
  );
}

function Recipes({ card }: { card: Card }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button
        look="ghost"
        className="h-[22px] px-1.5! text-[11.5px]"
        title="keep these treatments for the show, or lay on what was kept"
        onClick={() => setOpen(true)}
      >
        <BookMarked size={12} /> recipes
      </Button>
      {open && <RecipesDialog card={card} onClose={() => setOpen(false)} />}
    </>
  );
}

function AddTreatment({ card }: { card: Card }) {
  const { shot, edit, set } = useSessionParts("shot", "edit", "set");
  const models = useModels();
  const add = async (model: TreatmentModel) => {
    if (!models) return;
    const added = addedTreatment(models, shot, card, { kind: model.kind });
    if (!(await edit([added.edit], `add ${model.kind}`))) return;
    set({ openTreatment: added.id, before: false });
  };
  return (
    <Menu
      trigger={
        <Button look="ghost" className="h-[22px] px-1.5! text-[11.5px]" aria-label="Add a treatment">
          <Plus size={12} /> add
        </Button>
      }
      sections={(models?.stages ?? [])
        .map((stage) => ({
          title: stage,
          choices: (models?.treatments ?? [])
            .filter((model) => model.stage === stage && !(card.treat && model.elements_only))
            .map((model) => ({ key: model.kind, label: model.title, note: model.summary, onPick: () => add(model) })),
        }))
        .filter((section) => section.choices.length > 0)}
    />
  );
}
