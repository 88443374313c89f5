import type { CSSProperties, ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { bakesOf, LIGHT_KINDS } from "../../api/document";
import { FindingMark } from "../../passes/FindingMark";
import { useFindings, worstOf } from "../../passes/useCheckup";
import { MatteList } from "../matte/MatteList";
import { documentOf, type LookingAt, useSession } from "../session";
import { useContents } from "../useContents";
import { aspectOf, Section } from "./Section";
import { tileName, useSheet } from "./useSheet";

/** Passes as a contact sheet by kind, and the mattes of the shot. */
export function Tray() {
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
        {sources?.map((source) => (
          <SourcePasses key={source.name} source={source} tile={(name) => tile(tileName(source.name, name))} />
        ))}
        {!contents && <p className="text-quiet">Reading the passes…</p>}
      </div>
      <div className="max-h-[45%] shrink-0 overflow-y-auto border-t border-line px-2.5 pt-2.5">
        {shot && <MatteList mattes={documentOf(shot).mattes ?? {}} uses={contents?.mattes ?? []} />}
      </div>
    </aside>
  );
}

type SourceProps = { source: Schemas["SourceData"]; tile: (name: string) => CSSProperties };

function SourcePasses({ source, tile }: SourceProps) {
  const lights = source.passes.filter((pass) => LIGHT_KINDS.includes(pass.kind));
  const others = source.passes.filter((pass) => !LIGHT_KINDS.includes(pass.kind));
  if (source.problem) {
    return (
      <Section title={source.name} note="cannot be read">
        <p role="alert" className="rounded-sm border border-coral/50 p-2 text-[11.5px] text-coral">
          {source.problem}
        </p>
      </Section>
    );
  }
  const plate = source.ids.length === 0 && others.length === 0 && lights.length === 1;
  return (
    <>
      {lights.length > 0 && (
        <Section title={plate ? "Plate" : "Light passes"} note={source.name}>
          <Tiles>
            {lights.map((pass) => (
              <Tile
                key={pass.name}
                label={plate ? source.name : pass.kind === "beauty" ? "beauty" : pass.name}
                look={{ kind: "pass", source: source.name, name: pass.name }}
                picture={tile(pass.name)}
              />
            ))}
          </Tiles>
        </Section>
      )}
      {others.length + source.ids.length > 0 && (
        <Section title="IDs and data" note={source.name}>
          <Tiles>
            {source.ids.map((layer) => (
              <Tile
                key={layer.name}
                label={layer.name.replaceAll("_", " ")}
                look={{ kind: "ids", source: source.name, name: layer.name }}
                picture={tile(layer.name)}
              />
            ))}
            {others.map((pass) => (
              <Tile
                key={pass.name}
                label={pass.name.replaceAll("_", " ")}
                look={{ kind: "pass", source: source.name, name: pass.name }}
                picture={tile(pass.name)}
              />
            ))}
          </Tiles>
        </Section>
      )}
    </>
  );
}

const Tiles = ({ children }: { children: ReactNode }) => <div className="grid grid-cols-2 gap-1.5">{children}</div>;

function Tile({ label, look, picture }: { label: string; look: LookingAt; picture: CSSProperties }) {
  const { shot, lookingAt, set } = useSession();
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
