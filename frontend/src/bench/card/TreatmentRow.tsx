import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { ChevronDown, ChevronRight, Eye, Pipette, Trash2 } from "lucide-react";
import type { Card, Treatment } from "../../api/document";
import type { TreatmentModel } from "../../api/models";
import { Button, Hint, IconButton } from "../../controls/Button";
import { OnSwitch } from "../../controls/OnSwitch";
import { useSessionParts } from "../session";
import { pathOf } from "../shotParts";
import { CameraPart, sharedOf, unusedOf } from "./CameraPart";
import { FeedMenu } from "./FeedMenu";
import { FlatShadow } from "./FlatShadow";
import { FocusButtons } from "./FocusButtons";
import { LayMenu } from "./LayMenu";
import { grainLike, matchTo } from "./measured";
import { OfMenu } from "./OfMenu";
import { Parameters } from "./Parameters";
import { CurvePlot } from "./plots/CurvePlot";
import { HueRing } from "./plots/HueRing";
import { type Stop, StopsBar } from "./plots/StopsBar";
import { TonePlot } from "./plots/TonePlot";
import { SourceRow } from "./SourceRow";
import { ThroughMenu } from "./ThroughMenu";

const STEPS: Record<string, -1 | 1> = { ArrowUp: -1, ArrowDown: 1 };
const STAGE_NOTES: Record<string, string> = {
  colour: "colour comes first, before anything spreads",
  spatial: "blurs come after colour, where the card stands",
  surround: "what gets in from around it comes after blurs, inside its alpha",
  light: "light that spreads comes last, past matte and frame",
};

/** What is told of the light that feeds a treatment comes after what becomes of it. */
const FED = ["threshold", "knee", "limit", "fill", "hidden", "output"];

type RowProps = {
  card: Card;
  treatment: Treatment;
  model: TreatmentModel | undefined;
  /** One place up or down in its stage. */
  onStep: (by: -1 | 1) => void;
};

/** A treatment of a card: switched, opened, dragged or moved by Alt ↑ ↓ within its stage. */
export function TreatmentRow({ card, treatment, model, onStep }: RowProps) {
  const { shot, openTreatment, set, edit } = useSessionParts("shot", "openTreatment", "set", "edit");
  const open = openTreatment === treatment.id;
  const on = treatment.enabled !== false;
  const path = [...pathOf(shot, card.id), "treatments", treatment.id];
  const name = treatment.name ?? treatment.kind;
  const remove = async (from: Element) => {
    const goOn = nextOf(from);
    if (!(await edit([{ op: "remove", path }], `remove ${name}`))) return;
    if (document.activeElement === document.body) goOn?.focus();
  };
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: treatment.id });
  return (
    <div
      ref={setNodeRef}
      data-treatment={treatment.id}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={`-mx-1.5 ${isDragging ? "relative z-10 rounded-sm bg-panel shadow-lg" : ""}`}
    >
      <div className={`flex h-7 items-center gap-1.5 rounded-sm px-1.5 ${open ? "bg-control" : ""}`}>
        <OnSwitch
          label={`${name} on`}
          on={on}
          onToggle={() =>
            edit([{ op: "set", path: [...path, "enabled"], value: on ? false : null }], `${name} ${on ? "off" : "on"}`)
          }
        />
        <button
          type="button"
          {...attributes}
          {...listeners}
          aria-expanded={open}
          onClick={() => set({ openTreatment: open ? null : treatment.id, before: false })}
          onKeyDown={(event) => {
            if (event.key === "Delete" && !event.repeat) remove(event.currentTarget);
            const by = event.altKey ? STEPS[event.key] : undefined;
            if (!by) return;
            event.preventDefault();
            event.stopPropagation();
            onStep(by);
          }}
          className={`flex min-w-0 flex-1 items-center gap-1 text-left ${on ? "" : "text-faint"}`}
        >
          {open ? <ChevronDown size={12} /> : <ChevronRight size={12} />}
          <Hint text={`${STAGE_NOTES[model?.stage ?? ""] ?? ""}; drag it within its stage, or Alt ↑ ↓`}>
            <span className="truncate">{treatment.name ?? model?.title ?? treatment.kind}</span>
          </Hint>
        </button>
        {model?.stage === "light" ? (
          <FeedMenu path={path} card={card} treatment={treatment} />
        ) : model?.schema.properties.of ? (
          <OfMenu path={path} treatment={treatment} />
        ) : (
          <ThroughMenu path={path} treatment={treatment} />
        )}
      </div>
      {open && model && (
        <div className="px-1.5 pt-1 pb-2">
          {model.schema.properties.source && (
            <SourceRow
              path={[...path, "source"]}
              value={(treatment.source as string | undefined) ?? null}
              what={name}
            />
          )}
          <Plot card={card} treatment={treatment} path={path} model={model} />
          {treatment.kind === "defocus" && <FocusButtons card={card} treatment={treatment} />}
          <CameraPart treatment={treatment} model={model} />
          <Parameters
            model={model.schema}
            values={treatment}
            path={path}
            skip={[...unusedOf(treatment), ...sharedOf(treatment, model)]}
            last={["amount", ...FED]}
          />
          <FlatShadow treatment={treatment} />
          {model.lays && <LayMenu path={path} treatment={treatment} />}
          <Touched card={card} treatment={treatment} />
          <div className="mt-1 flex">
            <span className="flex-1" />
            <IconButton label={`Remove ${name}`} look="ghost" onClick={(event) => remove(event.currentTarget)}>
              <Trash2 size={13} />
            </IconButton>
          </div>
        </div>
      )}
    </div>
  );
}

/** Where the keyboard goes on when a treatment is gone: the one after it, the one before it, or what adds one. */
function nextOf(from: Element): HTMLElement | null | undefined {
  const list = from.closest("section");
  const rows = [...(list?.querySelectorAll("[data-treatment]") ?? [])];
  const at = rows.findIndex((row) => row.contains(from));
  const near = rows[at + 1] ?? rows[at - 1];
  return near
    ? near.querySelector<HTMLElement>("[aria-roledescription]")
    : list?.querySelector<HTMLElement>('[aria-label="Add a treatment"]');
}

/** Treatments whose light or shadow can be looked at by itself. */
const LAYS = ["wrap", "bleed", "cast"];

/** Shows what a treatment lays on the card, by itself. */
function LaidButton({ card, treatment }: { card: Card; treatment: Treatment }) {
  const { lookingAt, set } = useSessionParts("lookingAt", "set");
  const seen = lookingAt.kind === "laid" && lookingAt.name === treatment.id;
  return (
    <div className="pt-1">
      <Button
        className={`h-[22px]! px-2! text-[11.5px] ${seen ? "text-verdigris" : ""}`}
        title="only what it lays in, on black"
        aria-pressed={seen}
        onClick={() =>
          set({ lookingAt: seen ? { kind: "picture" } : { kind: "laid", card: card.id, name: treatment.id } })
        }
      >
        <Eye size={11} /> See it alone
      </Button>
    </div>
  );
}

/** What of a treatment is set by touching the picture. */
function Touched({ card, treatment }: { card: Card; treatment: Treatment }) {
  const button = (label: string, title: string, act: () => void) => (
    <Button className="h-[22px]! px-2! text-[11.5px]" title={title} onClick={act}>
      <Pipette size={11} /> {label}
    </Button>
  );
  if (treatment.kind === "grain")
    return (
      <div className="pt-1">
        {button("Grain as touched", "measured on an even patch", () => grainLike(card, treatment))}
      </div>
    );
  if (LAYS.includes(treatment.kind)) return <LaidButton card={card} treatment={treatment} />;
  if (treatment.kind !== "grade") return null;
  return (
    <div className="flex gap-1.5 pt-1">
      {button("Colour like…", "touch two places: colour is matched, brightness stays", () =>
        matchTo(card, treatment, "neutral"),
      )}
      {button("All like…", "touch two places: colour and brightness are matched", () =>
        matchTo(card, treatment, "whole"),
      )}
    </div>
  );
}

/** The picture-like control of a treatment that has one. */
function Plot(props: { card: Card; treatment: Treatment; path: string[]; model: TreatmentModel }) {
  const { card, treatment, path, model } = props;
  if (treatment.kind === "curves") return <CurvePlot card={card} treatment={treatment} path={path} />;
  if (treatment.kind === "tones") return <TonePlot card={card} treatment={treatment} path={path} />;
  if (treatment.kind === "grade") return <HueRing treatment={treatment} path={path} />;
  if (treatment.kind !== "recolour") return null;
  const stops = (treatment.stops ?? model.schema.properties.stops?.default ?? []) as [number, Stop["colour"], number][];
  return (
    <StopsBar
      name={treatment.name ?? "recolour"}
      path={[...path, "stops"]}
      stops={stops.map(([at, colour, alpha]) => ({ at, colour, alpha }))}
      written={(next) => next.map((one) => [one.at, one.colour, one.alpha])}
    />
  );
}
