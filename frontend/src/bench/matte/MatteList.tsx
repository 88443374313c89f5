import { DndContext, type DragEndEvent, PointerSensor, pointerWithin, useSensor, useSensors } from "@dnd-kit/core";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import type { Matte } from "../../api/document";
import { useSession } from "../session";
import { Section } from "../tray/Section";
import { useSheet } from "../tray/useSheet";
import { ChosenBar } from "./ChosenBar";
import { Dropped } from "./Dropped";
import { MatteRow } from "./MatteRow";
import { NewMatte } from "./NewMatte";
import { useMeasuring } from "./useAreas";

type Props = { mattes: Record<string, Matte>; uses: Schemas["MatteUse"][] };

/** The mattes of the shot; one dragged on another combines them, several can be chosen. */
export function MatteList({ mattes, uses }: Props) {
  const entries = Object.entries(mattes);
  const { tile } = useSheet("mattes");
  const chosen = useSession((s) => s.chosen);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const [pair, setPair] = useState<[string, string] | null>(null);
  const told = (id: string) => uses.find((use) => use.id === id);
  useMeasuring();
  const dropped = ({ active, over }: DragEndEvent) => {
    if (over && over.id !== active.id) setPair([String(active.id), String(over.id)]);
  };
  return (
    <Section title="Mattes" note={entries.length ? String(entries.length) : undefined} action={<NewMatte />}>
      {entries.length === 0 && (
        <p className="text-[11.5px] text-quiet">
          Touch something in the picture: grading or blooming it makes its matte. Or make one with the plus.
        </p>
      )}
      {chosen.length > 0 && <ChosenBar />}
      <DndContext
        sensors={sensors}
        collisionDetection={pointerWithin}
        onDragStart={() => setPair(null)}
        onDragEnd={dropped}
        accessibility={{
          screenReaderInstructions: { draggable: "Drag it on another matte, or open it and choose Combine." },
        }}
      >
        {entries.map(([id, matte]) => (
          <div key={id}>
            <MatteRow
              id={id}
              matte={matte}
              uses={told(id)?.uses ?? []}
              baked={told(id)?.baked ?? null}
              picture={tile(id)}
            />
            {pair?.[1] === id && <Dropped parts={pair} onDone={() => setPair(null)} />}
          </div>
        ))}
      </DndContext>
    </Section>
  );
}
