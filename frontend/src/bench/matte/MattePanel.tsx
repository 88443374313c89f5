import { Copy, X } from "lucide-react";
import type { Matte } from "../../api/document";
import { useModels } from "../../api/models";
import { IconButton } from "../../controls/Button";
import { NameInput } from "../../controls/NameInput";
import { LostRow } from "../../lost/LostRow";
import { useLost } from "../../lost/useLost";
import { Parameters } from "../card/Parameters";
import { freshName } from "../freshName";
import { nameOfMatte, useSession, useSessionParts } from "../session";
import { documentOf } from "../shotParts";
import { useContents } from "../useContents";
import { AreaPlot } from "./AreaPlot";
import { addMatte } from "./adding";
import { BakePart } from "./BakePart";
import { BorderNote } from "./BorderNote";
import { Combine } from "./Combine";
import { DeleteMatte } from "./DeleteMatte";
import { NameList } from "./NameList";
import { NewName } from "./NewName";
import { Numbers } from "./Numbers";
import { Picks } from "./Picks";
import { ShapePart } from "./ShapePart";

const OWN = ["names", "layer", "numbers", "mattes", "how", "points", "form", "order", "refine", "bake"];

/** A matte from top to bottom: what it is made of, its refinements, where it is used. */
export function MattePanel({ id, matte }: { id: string; matte: Matte }) {
  const { shot, set, edit } = useSessionParts("shot", "set", "edit");
  const lost = useLost().filter((one) => one.matte === id);
  const models = useModels();
  const contents = useContents();
  const model = models?.mattes.find((one) => one.kind === matte.kind);
  if (!shot) return null;
  const path = ["mattes", id];
  const uses = contents?.mattes.find((one) => one.id === id)?.uses ?? [];
  const values = matte as Record<string, unknown>;
  const close = () => set({ openMatte: null, lookingAt: { kind: "picture" } });
  const copy = () => {
    const fresh = freshName(Object.keys(documentOf(shot).mattes ?? {}), `${nameOfMatte(id)} copy`);
    addMatte({ ...matte, id: fresh, name: null }, `duplicate matte ${nameOfMatte(id)}`);
  };
  return (
    <aside
      className="flex w-[286px] shrink-0 flex-col overflow-y-auto border-l border-line bg-panel"
      aria-label="Matte"
    >
      <div className="flex h-10 shrink-0 items-center gap-1 border-b border-line border-l-2 border-l-lilac pr-1.5 pl-2.5">
        <NameInput
          label="Name of the matte"
          className="flex-1 font-semibold text-[14px]"
          name={matte.name ?? id}
          onName={(wanted) =>
            edit(
              [{ op: "set", path: ["mattes", id, "name"], value: wanted === id ? null : wanted }],
              `call it ${wanted}`,
            )
          }
        />
        <span className="shrink-0 text-quiet">{model?.title}</span>
        <IconButton label="Duplicate the matte" look="ghost" onClick={copy}>
          <Copy size={13} />
        </IconButton>
        <DeleteMatte id={id} uses={uses} onGone={close} />
        <IconButton label="Back to the card" look="ghost" onClick={close}>
          <X size={14} />
        </IconButton>
      </div>
      <section className="px-3 py-2" aria-label="What it is made of">
        {lost.map((one) => (
          <LostRow key={one.noun + one.name} lost={one} />
        ))}
        <NewName id={id} matte={matte} />
        <BorderNote id={id} matte={matte} />
        {matte.kind === "id" && <NameList id={id} matte={matte} />}
        {matte.kind === "index" && <Numbers id={id} matte={matte} />}
        {matte.kind === "combined" && <Combined matte={matte} />}
        {matte.kind === "shape" && <ShapePart id={id} matte={matte} />}
        <Picks id={id} matte={matte} />
        {"pass" in (model?.schema.properties ?? {}) && <PassChoice id={id} matte={matte} />}
        {model && <Parameters model={model.schema} values={values} path={path} skip={OWN} />}
        <Combine id={id} matte={matte} />
      </section>
      {models && (
        <section className="border-t border-line px-3 py-2" aria-label="Refinements">
          <h3 className="heading mb-1">Refine</h3>
          <Parameters
            model={models.refine}
            values={(values.refine as Record<string, unknown> | undefined) ?? {}}
            path={[...path, "refine"]}
          />
        </section>
      )}
      <AreaPlot id={id} />
      <BakePart id={id} matte={matte} />
      <section className="border-t border-line px-3 py-2 text-quiet" aria-label="Used by">
        <h3 className="heading mb-1">Used by</h3>
        {uses.length === 0 && "nothing yet"}
        {uses.map((use) => (
          <p key={use}>{use}</p>
        ))}
      </section>
    </aside>
  );
}

function Combined({ matte }: { matte: Matte }) {
  const parts = (matte as { mattes?: (string | { matte: string; invert?: boolean })[] }).mattes ?? [];
  const told = parts.map((part) =>
    typeof part === "string" ? nameOfMatte(part) : `${part.invert ? "not " : ""}${nameOfMatte(part.matte)}`,
  );
  return (
    <p className="py-1">
      <span className="text-quiet">{matte.how?.replace("_", " ")}: </span>
      {told.join(", ")}
    </p>
  );
}

/** Which pass of its source a matte looks at. */
function PassChoice({ id, matte }: { id: string; matte: Matte }) {
  const edit = useSession((s) => s.edit);
  const contents = useContents();
  const own = matte as Matte & { source?: string; pass?: string };
  const passes = contents?.sources.find((one) => one.name === own.source)?.passes ?? [];
  return (
    <label className="grid h-[27px] grid-cols-[78px_1fr] items-center gap-2">
      <span className="text-quiet">Pass</span>
      <select
        className="h-[22px] min-w-0 rounded-sm bg-control px-2"
        value={own.pass ?? ""}
        onChange={(event) =>
          edit([{ op: "set", path: ["mattes", id, "pass"], value: event.target.value }], `pass ${event.target.value}`)
        }
      >
        {!passes.some((one) => one.name === own.pass) && <option value={own.pass ?? ""}>{own.pass ?? "beauty"}</option>}
        {passes.map((one) => (
          <option key={one.name} value={one.name}>
            {one.name}
          </option>
        ))}
      </select>
    </label>
  );
}
