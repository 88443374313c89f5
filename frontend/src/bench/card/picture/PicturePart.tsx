import { Split } from "lucide-react";
import { useState } from "react";
import { type Card, type GradientStop, type Keys, USUAL_STOPS, valueAt, withValue } from "../../../api/document";
import { useModels } from "../../../api/models";
import { Button } from "../../../controls/Button";
import { counted } from "../../../controls/counted";
import { LostRow } from "../../../lost/LostRow";
import { useLost } from "../../../lost/useLost";
import { useSession, useSessionParts } from "../../session";
import { cardsOf, insideOf, pathOf, shownName } from "../../shotParts";
import { useContents } from "../../useContents";
import { FoldedPart } from "../FoldedPart";
import { Parameters } from "../Parameters";
import { type Stop, StopsBar } from "../plots/StopsBar";
import { SourceRow } from "../SourceRow";
import { ChoiceRow } from "./ChoiceRow";
import { Cuts } from "./Cuts";
import { lightFamilies, rebuildable, rebuiltFrom } from "./lightFamilies";
import { PlateTime } from "./PlateTime";
import { RebuildPart } from "./RebuildPart";
import { Falls, ShadowPart } from "./ShadowPart";
import { TextPart } from "./TextPart";

/** What is all set by hand. */
const DESIGNED = ["solid", "gradient", "noise", "texture", "text"];

/** What an element card shows, and what cuts it. */
export function PicturePart({ card }: { card: Card }) {
  const shot = useSession((s) => s.shot);
  const models = useModels();
  const lost = useLost().some((one) => one.card === card.id);
  const [opened, setOpen] = useState<boolean | null>(null);
  const picture = card.picture;
  if (!picture) return null;
  // what is lost is shown without being asked for, and so is all there is to set of what was designed
  const open = opened ?? (lost || DESIGNED.includes(picture.kind));
  const model = models?.pictures.find((one) => one.kind === picture.kind);
  const lights = picture.kind === "rebuild" ? Object.keys((picture.lights as object | undefined) ?? {}) : [];
  const said = [
    model?.title.toLowerCase() ?? picture.kind,
    picture.source,
    typeof picture.pass === "string" ? picture.pass : null,
    lights.length ? counted(lights.length, "light") : null,
    picture.kind === "bundle" ? `${((picture.build ?? []) as Card[]).length} cards` : null,
  ].filter(Boolean);
  return (
    <section className="px-3 py-2" aria-label="Picture">
      <FoldedPart name="Picture" said={said.join(" · ")} open={open} onToggle={() => setOpen(!open)}>
        {picture.source && (
          <SourceRow
            path={[...pathOf(shot, card.id), "picture", "source"]}
            value={picture.source}
            what={shownName(card)}
          />
        )}
        {picture.kind === "rebuild" && <RebuildPart card={card} />}
        {picture.kind === "shadow" && <OfPass card={card} />}
        {picture.kind === "pass" && <OfPass card={card} />}
        {picture.kind === "plate" && (
          <p className="py-1 text-[11.5px] text-quiet">
            A background: it fills the frame, and its border goes on outside.
          </p>
        )}
        {picture.kind === "plate" && <PlateTime card={card} />}
        {picture.kind === "text" && <TextPart card={card} />}
        {picture.kind === "gradient" && <GradientStops card={card} />}
        {picture.kind === "bundle" && <Inside bundle={card} />}
        {model && <Parameters model={model.schema} values={picture} path={[...pathOf(shot, card.id), "picture"]} />}
      </FoldedPart>
      <Cuts card={card} />
    </section>
  );
}

/** One pass of a source, or a shadow of one; one that is laid on by multiply says what it falls on. */
function OfPass({ card }: { card: Card }) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const contents = useContents();
  const lost = useLost().filter((one) => one.card === card.id);
  const picture = card.picture;
  if (!shot || !picture) return null;
  if (lost.length) return lost.map((one) => <LostRow key={one.name} lost={one} />);
  if (picture.kind === "shadow") return <ShadowPart card={card} />;
  const passes = contents?.sources.find((one) => one.name === picture.source)?.passes ?? [];
  const own = (picture.pass as string | undefined) ?? "beauty";
  const name = passes.some((one) => one.name === own) ? own : (passes.find((one) => one.kind === own)?.name ?? own);
  const kind = passes.find((one) => one.name === name)?.kind;
  const isShadow = kind === "shadow";
  const rebuilt = kind === "beauty" && (picture.channel ?? null) === null ? rebuildable(lightFamilies(passes)) : [];
  const path = [...pathOf(shot, card.id), "picture"];
  return (
    <>
      <ChoiceRow
        label="Pass"
        value={name}
        choices={passes.map((one) => one.name)}
        onChoose={(pass) =>
          edit([{ op: "set", path: [...path, "pass"], value: pass }], `${shownName(card)} shows ${pass}`)
        }
      />
      {rebuilt.map(({ noun, names }) => (
        <Button
          key={noun}
          look="ghost"
          className="h-[24px]! justify-start px-0! text-[11.5px]"
          title="a switch, a gain and a tint for each"
          onClick={() =>
            edit(
              [{ op: "set", path, value: rebuiltFrom(picture.source ?? "", names) }],
              `rebuild ${shownName(card)} from its ${noun}`,
            )
          }
        >
          <Split size={12} /> rebuild it from its {names.length} {noun}
        </Button>
      ))}
      {isShadow && card.join === "multiply" && <ShadowPart card={card} />}
      {!isShadow && card.join === "multiply" && cardsOf(shot).length > 1 && <Falls card={card} pass={name} />}
    </>
  );
}

/** The colours of a gradient along its line; the line itself lies in the picture. */
function GradientStops({ card }: { card: Card }) {
  const { shot, frame } = useSessionParts("shot", "frame");
  const stops = (card.picture?.stops ?? USUAL_STOPS) as GradientStop[];
  return (
    <StopsBar
      name={shownName(card)}
      path={[...pathOf(shot, card.id), "picture", "stops"]}
      stops={stops.map(({ at, colour, alpha }) => ({
        at: valueAt<number>(at ?? 0, frame),
        colour: valueAt<number[]>((colour ?? [0, 0, 0]) as number[] | Keys, frame) as Stop["colour"],
        alpha: valueAt<number>((alpha ?? 1) as number | Keys, frame),
      }))}
      written={(next) =>
        // as many as before: what is keyed stays keyed
        next.length !== stops.length
          ? next
          : next.map((one, i) => ({
              at: withValue(stops[i]?.at, frame, one.at),
              colour: withValue(stops[i]?.colour, frame, one.colour),
              alpha: withValue(stops[i]?.alpha, frame, one.alpha),
            }))
      }
    />
  );
}

/** The cards of a bundle, frontmost first. */
function Inside({ bundle }: { bundle: Card }) {
  const set = useSession((s) => s.set);
  const cards = insideOf(bundle);
  if (!cards.length) return <p className="py-1 text-quiet">No cards are in it.</p>;
  return (
    <ol className="py-1" aria-label="Cards in the bundle">
      {[...cards].reverse().map((one) => (
        <li key={one.id} className={`flex h-[22px] items-center gap-2 ${one.enabled === false ? "text-quiet" : ""}`}>
          <button
            type="button"
            title="open it where it is"
            className="min-w-0 truncate hover:text-verdigris"
            onClick={() => set({ inside: bundle.id, openCard: one.id, openMatte: null })}
          >
            {shownName(one)}
          </button>
          <span className="text-quiet">{one.treat ? "treat" : one.picture?.kind}</span>
        </li>
      ))}
    </ol>
  );
}
