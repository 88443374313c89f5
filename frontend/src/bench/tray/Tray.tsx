import { Plus } from "lucide-react";
import type { CSSProperties, ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { bakesOf, LIGHT_GROUP, LIGHT_KINDS, PICTURE_KINDS } from "../../api/document";
import { IconButton } from "../../controls/Button";
import { FindingMark } from "../../passes/FindingMark";
import { useFindings, worstOf } from "../../passes/useCheckup";
import { NoSources, SourceMenu } from "../../sources/SourceMenu";
import { MatteList } from "../matte/MatteList";
import { useSession, useSessionParts } from "../session";
import { documentOf, type LookingAt } from "../shotParts";
import { useContents } from "../useContents";
import { aspectOf } from "./Section";
import { tileName, useSheet } from "./useSheet";

/** Passes as a contact sheet by kind, and the mattes of the shot. */
export function Tray({ onAdd }: { onAdd: () => void }) {
  const shot = useSession((s) => s.shot);
  const contents = useContents();
  const { tile, ready } = useSheet("passes");
  const bakes = shot ? bakesOf(documentOf(shot)) : new Set();
  const sources = contents?.sources.filter((source) => !bakes.has(source.name));
  return (
    <aside
      className="flex w-[224px] shrink-0 flex-col border-r border-line bg-panel"
      aria-label="Tray"
      aria-busy={!ready}
    >
      <div className="min-h-0 flex-1 overflow-y-auto px-2.5 pt-2.5">
        <h2 className="heading mb-1.5 flex items-center">
          Sources
          <IconButton label="Add a source" look="ghost" className="ml-auto h-[22px]! w-[22px]!" onClick={onAdd}>
            <Plus size={13} />
          </IconButton>
        </h2>
        {sources?.length === 0 && <NoSources onAdd={onAdd} />}
        {sources?.map((source) => (
          <SourcePasses key={source.name} source={source} tile={(name) => tile(tileName(source.name, name))} />
        ))}
        {!contents && <p className="text-quiet">Reading the passes…</p>}
      </div>
      <div className="max-h-[45%] shrink-0 overflow-y-auto border-t border-line px-2.5 pt-2.5">
        {shot && <MatteList shot={shot} uses={contents?.mattes ?? []} />}
      </div>
    </aside>
  );
}

type SourceProps = { source: Schemas["SourceData"]; tile: (name: string) => CSSProperties };

function SourcePasses({ source, tile }: SourceProps) {
  const lights = source.passes.filter((pass) => LIGHT_KINDS.includes(pass.kind) && pass.kind !== LIGHT_GROUP);
  const groups = source.passes.filter((pass) => pass.kind === LIGHT_GROUP);
  const drawn = source.passes.filter((pass) => PICTURE_KINDS.includes(pass.kind) && !LIGHT_KINDS.includes(pass.kind));
  const data = source.passes.filter((pass) => !PICTURE_KINDS.includes(pass.kind));
  const plate = source.ids.length + groups.length + drawn.length + data.length === 0 && lights.length === 1;
  const tileOf = (kind: "pass" | "ids", name: string, label: string) => (
    <Tile key={name} label={label} look={{ kind, source: source.name, name }} picture={tile(name)} />
  );
  return (
    <section className="mb-3" aria-label={source.name}>
      <h3 className="mb-1.5 flex items-center gap-1.5">
        <b className="min-w-0 truncate" title={source.path}>
          {source.name}
        </b>
        <span className="text-[11px] text-quiet">{source.problem ? "cannot be read" : plate ? "plate" : ""}</span>
        <span className="flex-1" />
        <SourceMenu source={source.name} />
      </h3>
      {source.problem && (
        <p role="alert" className="rounded-sm border border-coral/50 p-2 text-[11.5px] text-coral">
          {source.problem}
        </p>
      )}
      {lights.length > 0 && (
        <Tiles title={plate ? null : "light passes"}>
          {lights.map((pass) =>
            tileOf("pass", pass.name, plate ? source.name : pass.kind === "beauty" ? "beauty" : pass.name),
          )}
        </Tiles>
      )}
      {groups.length > 0 && (
        <Tiles title="light groups">{groups.map((pass) => tileOf("pass", pass.name, pass.name))}</Tiles>
      )}
      {drawn.length > 0 && (
        <Tiles title="shadow and lines">
          {drawn.map((pass) => tileOf("pass", pass.name, pass.name.replaceAll("_", " ")))}
        </Tiles>
      )}
      {data.length + source.ids.length > 0 && (
        <Tiles title="IDs and data">
          {source.ids.map((layer) => tileOf("ids", layer.name, layer.name.replaceAll("_", " ")))}
          {data.map((pass) => tileOf("pass", pass.name, pass.name.replaceAll("_", " ")))}
        </Tiles>
      )}
    </section>
  );
}

/** Passes of one sort, as small pictures. */
const Tiles = ({ title, children }: { title: string | null; children: ReactNode }) => (
  <>
    {title && <h4 className="mt-1.5 mb-1 text-[11px] text-quiet">{title}</h4>}
    <div className="grid grid-cols-2 gap-1.5">{children}</div>
  </>
);

function Tile({ label, look, picture }: { label: string; look: LookingAt; picture: CSSProperties }) {
  const { shot, lookingAt, set } = useSessionParts("shot", "lookingAt", "set");
  const findings = useFindings();
  if (!shot) return null;
  const on = JSON.stringify(lookingAt) === JSON.stringify(look);
  const finding = "source" in look ? worstOf(findings, look.source, look.name) : undefined;
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={() => set({ lookingAt: on ? { kind: "picture" } : look, channel: "colour" })}
      className="relative min-w-0 text-left text-[11px]"
      title={on ? "back to the picture" : `look at ${label}`}
    >
      <span
        style={{ aspectRatio: aspectOf(shot), ...picture }}
        className={`block w-full rounded-[2px] ${picture.backgroundImage ? "bg-black" : "bg-control"} ${on ? "outline outline-[1.5px] outline-verdigris" : ""}`}
      />
      <FindingMark finding={finding} size={11} />
      <span className="block truncate pt-0.5">{label}</span>
    </button>
  );
}
