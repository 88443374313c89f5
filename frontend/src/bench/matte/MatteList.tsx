import { DndContext, type DragEndEvent, PointerSensor, pointerWithin, useSensor, useSensors } from "@dnd-kit/core";
import { useState } from "react";
import type { Schemas, ShotState } from "../../api/client";
import { holding } from "../../controls/holding";
import { SearchInput } from "../../controls/SearchInput";
import { useSessionParts } from "../session";
import { listedMattes } from "../shotParts";
import { Section } from "../tray/Section";
import { useSheet } from "../tray/useSheet";
import { ChosenBar } from "./ChosenBar";
import { Dropped } from "./Dropped";
import { MatteRow } from "./MatteRow";
import { NewMatte } from "./NewMatte";
import { useMeasuring } from "./useAreas";

/** So many mattes are looked through at a glance; of more, those are listed that hold what is searched. */
const AT_A_GLANCE = 12;

/** The mattes of the shot; one dragged on another combines them, several can be chosen. */
export function MatteList({ shot, uses }: { shot: ShotState; uses: Schemas["MatteUse"][] }) {
  const all = listedMattes(shot);
  const { chosen, openMatte } = useSessionParts("chosen", "openMatte");
  const [search, setSearch] = useState("");
  const searched = all.length > AT_A_GLANCE ? search.trim() : "";
  const holds = holding(searched);
  const entries = searched ? all.filter(([id, matte]) => id === openMatte || holds(matte.name ?? id)) : all;
  const { tile } = useSheet("mattes");
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const [pair, setPair] = useState<[string, string] | null>(null);
  const told = (id: string) => uses.find((use) => use.id === id);
  useMeasuring();
  const dropped = ({ active, over }: DragEndEvent) => {
    if (over && over.id !== active.id) setPair([String(active.id), String(over.id)]);
  };
  return (
    <Section
      title="Mattes"
      note={all.length ? (searched ? `${entries.length} of ${all.length}` : String(all.length)) : undefined}
      action={<NewMatte />}
    >
      {all.length === 0 && (
        <p className="text-[11.5px] text-quiet">
          Touch something in the picture: grading or blooming it makes its matte. Or make one with the plus.
        </p>
      )}
      {all.length > AT_A_GLANCE && (
        <SearchInput
          label="Search mattes"
          placeholder="search mattes"
          value={search}
          onSearch={setSearch}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === "Escape") setSearch("");
          }}
          className="mb-1.5 h-6 w-full"
        />
      )}
      {searched && entries.length === 0 && <p className="text-[11.5px] text-quiet">No matte holds “{searched}”.</p>}
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
