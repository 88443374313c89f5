import { X } from "lucide-react";
import { useState } from "react";
import { type Card, type MatteRef, matteOf } from "../../api/document";
import { boundsOf, type Field, useModels } from "../../api/models";
import { Button } from "../../controls/Button";
import { Menu } from "../../controls/Menu";
import { documentOf, shownName, useSession } from "../session";
import { useContents } from "../useContents";
import { AnimatedField } from "./AnimatedField";
import { FoldedPart } from "./FoldedPart";
import { Parameters } from "./Parameters";

const LIGHTS = [
  "diffuse",
  "specular",
  "reflection",
  "refraction",
  "emission",
  "subsurface",
  "volume",
  "coat",
  "sheen",
  "ambient",
];

export function PicturePart({ card }: { card: Card }) {
  const models = useModels();
  const [open, setOpen] = useState(card.picture?.kind === "solid" || card.picture?.kind === "gradient");
  const picture = card.picture;
  if (!picture) return null;
  const model = models?.pictures.find((one) => one.kind === picture.kind);
  const lights = picture.kind === "rebuild" ? Object.keys((picture.lights as object | undefined) ?? {}) : [];
  const said = [
    model?.title.toLowerCase() ?? picture.kind,
    picture.source,
    typeof picture.pass === "string" ? picture.pass : null,
    lights.length ? `${lights.length} lights` : null,
    picture.kind === "bundle" ? `${((picture.build ?? []) as Card[]).length} cards` : null,
  ].filter(Boolean);
  return (
    <section className="px-3 py-2" aria-label="Picture">
      <FoldedPart name="Picture" said={said.join(" · ")} open={open} onToggle={() => setOpen(!open)}>
        {picture.kind === "rebuild" && <Lights card={card} />}
        {picture.kind === "bundle" && <Inside cards={(picture.build ?? []) as Card[]} />}
        {model && <Parameters model={model.schema} values={picture} path={["build", card.id, "picture"]} />}
      </FoldedPart>
      <Cuts card={card} />
    </section>
  );
}

/** The cards of a bundle, frontmost first. */
function Inside({ cards }: { cards: Card[] }) {
  if (!cards.length) return <p className="py-1 text-quiet">No cards are in it.</p>;
  return (
    <ol className="py-1" aria-label="Cards in the bundle">
      {[...cards].reverse().map((one) => (
        <li key={one.id} className={`flex h-[22px] items-center gap-2 ${one.enabled === false ? "text-faint" : ""}`}>
          <span className="min-w-0 truncate">{shownName(one)}</span>
          <span className="text-faint">{one.treat ? "treat" : one.picture?.kind}</span>
        </li>
      ))}
    </ol>
  );
}

/** The gains of a rebuild's light passes. */
function Lights({ card }: { card: Card }) {
  const models = useModels();
  const contents = useContents();
  const edit = useSession((s) => s.edit);
  const path = ["build", card.id, "picture"];
  const source = contents?.sources.find((one) => one.name === card.picture?.source);
  const set = (card.picture?.lights ?? {}) as Record<string, { gain?: unknown }>;
  const names = Object.keys(set).length
    ? Object.keys(set)
    : (source?.passes ?? []).filter((pass) => LIGHTS.includes(pass.kind)).map((pass) => pass.name);
  const gain = models?.light.properties.gain as Field | undefined;
  if (!gain || Object.keys(set).length === 0) {
    return (
      <div className="py-1 text-[11.5px] text-quiet">
        All light passes at their rendered strength: {names.join(", ")}.
        {gain && names.length > 0 && (
          <Button
            className="mt-1.5"
            onClick={() =>
              edit(
                [{ op: "set", path: [...path, "lights"], value: Object.fromEntries(names.map((name) => [name, {}])) }],
                `set the lights of ${shownName(card)} one by one`,
              )
            }
          >
            Set them one by one
          </Button>
        )}
      </div>
    );
  }
  return (
    <div className="py-1">
      {names.map((name) => (
        <AnimatedField
          key={name}
          path={[...path, "lights", name, "gain"]}
          name={`gain of ${name}`}
          value={set[name]?.gain}
          field={{ ...gain, title: name }}
          bounds={boundsOf(gain)}
        />
      ))}
    </div>
  );
}

function Cuts({ card }: { card: Card }) {
  const { shot, edit } = useSession();
  if (!shot) return null;
  const cuts = card.cut ?? [];
  const path = ["build", card.id, "cut"];
  const put = (next: MatteRef[], command: string) =>
    edit([{ op: "set", path, value: next.length ? next : null }], command);
  const mattes = Object.entries(documentOf(shot).mattes ?? {});
  return (
    <div className="flex min-h-[26px] flex-wrap items-center gap-1.5">
      <span className="w-[52px] pr-2 text-quiet">Cut</span>
      {cuts.map((reference) => (
        <span
          key={JSON.stringify(reference)}
          className="flex items-center gap-1 rounded-sm bg-lilac-ground px-[7px] py-[2px] text-[11px] text-lilac"
        >
          {matteOf(reference)}
          <button
            type="button"
            aria-label={`Take the cut by ${matteOf(reference)} away`}
            onClick={() =>
              put(
                cuts.filter((one) => one !== reference),
                `uncut ${shownName(card)}`,
              )
            }
          >
            <X size={11} />
          </button>
        </span>
      ))}
      <Menu
        trigger={
          <button type="button" className="rounded-sm px-1.5 py-[2px] text-[11px] text-faint hover:text-text">
            {cuts.length ? "+" : "none"}
          </button>
        }
        sections={[
          {
            title: "cut by",
            choices: mattes.map(([id, matte]) => ({
              key: id,
              label: matte.name ?? id,
              onPick: () => put([...cuts, id], `cut ${shownName(card)} by ${id}`),
            })),
          },
        ]}
      />
    </div>
  );
}
