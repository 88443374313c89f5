import { ChevronDown, ChevronRight, Pipette, Plus, Trash2 } from "lucide-react";
import { type Card, matteOf, type Treatment } from "../../api/document";
import { type TreatmentModel, useModels } from "../../api/models";
import { Button, Hint, IconButton } from "../../controls/Button";
import { Menu } from "../../controls/Menu";
import { OnSwitch } from "../../controls/OnSwitch";
import { freshTreatment } from "../freshName";
import { nameOfMatte, useSessionParts } from "../session";
import { cardsOf, documentOf, pathOf } from "../shotParts";
import { LayMenu } from "./LayMenu";
import { grainLike, matchTo } from "./measured";
import { Parameters } from "./Parameters";
import { CurvePlot } from "./plots/CurvePlot";
import { type Stop, StopsBar } from "./plots/StopsBar";

const STAGE_NOTES: Record<string, string> = {
  colour: "colour comes first, before anything spreads",
  spatial: "blurs come after colour, where the card stands",
  surround: "what gets in from around it comes after blurs, inside its alpha",
  light: "light that spreads comes last, past matte and frame",
};

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
        <AddTreatment card={card} />
      </h3>
      {treatments.length === 0 && (
        <p className="py-1 text-quiet">None yet. Add one, or touch something in the picture.</p>
      )}
      {stages.map((stage) => {
        const own = treatments.filter((treatment) => model(treatment.kind)?.stage === stage);
        return own.length ? (
          <div key={stage}>
            {own.map((treatment) => (
              <Row key={treatment.id} card={card} treatment={treatment} model={model(treatment.kind)} />
            ))}
          </div>
        ) : null;
      })}
    </section>
  );
}

function AddTreatment({ card }: { card: Card }) {
  const { shot, edit, set } = useSessionParts("shot", "edit", "set");
  const models = useModels();
  const add = async (model: TreatmentModel) => {
    const id = freshTreatment(cardsOf(shot).flatMap((one) => (one.treatments ?? []).map((t) => t.id)));
    const later = models?.stages.slice(models.stages.indexOf(model.stage) + 1) ?? [];
    const stageOf = (kind: string) => models?.treatments.find((one) => one.kind === kind)?.stage ?? "";
    const before = (card.treatments ?? []).find((t) => later.includes(stageOf(t.kind)))?.id ?? null;
    const item = { id, kind: model.kind };
    const added = [{ op: "insert" as const, path: [...pathOf(shot, card.id), "treatments"], item, before }];
    if (!(await edit(added, `add ${model.kind}`))) return;
    set({ openTreatment: id, before: false });
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

type RowProps = { card: Card; treatment: Treatment; model: TreatmentModel | undefined };

function Row({ card, treatment, model }: RowProps) {
  const { shot, openTreatment, set, edit } = useSessionParts("shot", "openTreatment", "set", "edit");
  const open = openTreatment === treatment.id;
  const on = treatment.enabled !== false;
  const path = [...pathOf(shot, card.id), "treatments", treatment.id];
  const name = treatment.name ?? treatment.kind;
  return (
    <div className="-mx-1.5">
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
          aria-expanded={open}
          onClick={() => set({ openTreatment: open ? null : treatment.id, before: false })}
          className={`flex min-w-0 flex-1 items-center gap-1 text-left ${on ? "" : "text-faint"}`}
        >
          {open ? <ChevronDown size={12} /> : <ChevronRight size={12} />}
          <Hint text={STAGE_NOTES[model?.stage ?? ""] ?? ""}>
            <span className="truncate">{treatment.name ?? model?.title ?? treatment.kind}</span>
          </Hint>
        </button>
        <ThroughMenu path={path} treatment={treatment} light={model?.stage === "light"} />
      </div>
      {open && model && (
        <div className="px-1.5 pt-1 pb-2">
          <Plot treatment={treatment} path={path} model={model} />
          <Parameters model={model.schema} values={treatment} path={path} last={["amount"]} />
          {model.lays && <LayMenu path={path} treatment={treatment} />}
          <Touched card={card} treatment={treatment} />
          <div className="mt-1 flex">
            <span className="flex-1" />
            <IconButton
              label={`Remove ${name}`}
              look="ghost"
              onClick={() => edit([{ op: "remove", path }], `remove ${name}`)}
            >
              <Trash2 size={13} />
            </IconButton>
          </div>
        </div>
      )}
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
function Plot({ treatment, path, model }: { treatment: Treatment; path: string[]; model: TreatmentModel }) {
  if (treatment.kind === "curves") return <CurvePlot treatment={treatment} path={path} />;
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

/** The matte a treatment works through, or takes its light from; shown as a chip. */
function ThroughMenu({ path, treatment, light }: { path: string[]; treatment: Treatment; light: boolean }) {
  const { shot, edit, set } = useSessionParts("shot", "edit", "set");
  if (!shot) return null;
  const name = treatment.name ?? treatment.kind;
  const feed = typeof treatment.feed === "object" ? matteOf(treatment.feed.matte) : null;
  const matte = light ? feed : treatment.through ? matteOf(treatment.through) : null;
  const mattes = Object.entries(documentOf(shot).mattes ?? {});
  const shown = matte && (documentOf(shot).mattes?.[matte]?.name ?? matte);
  const use = (id: string | null) =>
    edit(
      [{ op: "set", path: [...path, light ? "feed" : "through"], value: light && id ? { matte: id } : id }],
      id ? `${name} ${light ? "from" : "through"} ${nameOfMatte(id)}` : `${name} everywhere`,
    );
  const whole = light ? "the whole card's light" : "everywhere";
  return (
    <Menu
      trigger={
        <button
          type="button"
          aria-label={shown ? `${light ? "From" : "Through"} ${shown}` : light ? `all light: ${whole}` : whole}
          className={`max-w-[118px] truncate rounded-sm px-[7px] py-[2px] text-[11px] ${matte ? "bg-lilac-ground text-lilac" : "text-faint hover:text-text"}`}
        >
          {shown ?? (light ? "all light" : "everywhere")}
        </button>
      }
      sections={[
        { choices: [{ key: "none", label: whole, onPick: () => use(null) }] },
        {
          title: light ? "light from" : "through",
          choices: mattes.map(([id, m]) => ({ key: id, label: m.name ?? id, onPick: () => use(id) })),
        },
        ...(matte
          ? [
              {
                choices: [
                  {
                    key: "look",
                    label: "Look at it",
                    onPick: () => set({ lookingAt: { kind: "tint", name: matte }, openMatte: matte }),
                  },
                ],
              },
            ]
          : []),
      ]}
    />
  );
}
