import { ChevronDown, ChevronRight, X } from "lucide-react";
import { useState } from "react";
import { type Card, type MatteRef, matteOf } from "../../../api/document";
import { boundsOf, type Field, useModels } from "../../../api/models";
import { Hint, IconButton } from "../../../controls/Button";
import { OnSwitch } from "../../../controls/OnSwitch";
import { LostRow } from "../../../lost/LostRow";
import { useLost } from "../../../lost/useLost";
import { type Edit, useSessionParts } from "../../session";
import { listedMattes, pathOf, shownName } from "../../shotParts";
import { useContents } from "../../useContents";
import { AnimatedField } from "../AnimatedField";
import { NumbersField } from "../NumbersField";
import { ChoiceRow } from "./ChoiceRow";
import { LightMenu } from "./LightMenu";
import { lightFamilies } from "./lightFamilies";
import { useCardFacts } from "./useCardFacts";

type Light = { gain?: unknown; tint?: unknown; enabled?: boolean; matte?: MatteRef; times?: string };

/** What light is multiplied by where it was rendered without the colour it falls on, or without what keeps it out. */
const FACTORS = ["surface_colour", "occlusion", "other"];

/** The light passes of a rebuild, each with its switch, gain and tint, and what they leave of the beauty. */
export function RebuildPart({ card }: { card: Card }) {
  const contents = useContents();
  const { shot, edit } = useSessionParts("shot", "edit");
  const lost = useLost().filter((one) => one.card === card.id);
  const facts = useCardFacts(card.id)?.residue;
  const path = [...pathOf(shot, card.id), "picture"];
  const source = contents?.sources.find((one) => one.name === card.picture?.source);
  const set = (card.picture?.lights ?? {}) as Record<string, Light>;
  const [passes, groups] = lightFamilies(source?.passes ?? []).map((one) => one.names);
  // without any named all the source has are used: the first change names them
  const named = Object.keys(set).length > 0;
  const names = named ? Object.keys(set) : passes?.length ? passes : (groups ?? []);
  const all = Object.fromEntries(names.map((name) => [name, {}]));
  const first: Edit[] = named ? [] : [{ op: "set", path: [...path, "lights"], value: all }];
  const factors = (source?.passes ?? []).filter((pass) => FACTORS.includes(pass.kind)).map((pass) => pass.name);
  const rest = card.picture?.rest as Light | undefined;
  const hasBeauty = source?.passes.some((pass) => pass.kind === "beauty") ?? false;
  return (
    <section className="py-1" aria-label="Light passes">
      {lost.map((one) => (
        <LostRow key={one.noun + one.name} lost={one} />
      ))}
      {names
        .filter((name) => !lost.some((one) => one.noun === "light" && one.name === name))
        .map((name) => (
          <LightRow
            key={name}
            title={name}
            path={[...path, "lights", name]}
            light={set[name] ?? {}}
            first={first}
            factors={factors}
            onOut={
              names.length > 1
                ? () =>
                    edit(
                      [...first, { op: "remove", path: [...path, "lights", name] }],
                      `take ${name} out of ${shownName(card)}`,
                    )
                : undefined
            }
          />
        ))}
      {hasBeauty && (
        <LightRow
          title="rest"
          hint="what all light passes together leave of the beauty: with it the sum is the beauty exactly"
          path={[...path, "rest"]}
          light={rest ?? { enabled: false }}
          factors={factors}
          first={rest ? [] : [{ op: "set", path: [...path, "rest"], value: {} }]}
          onOut={
            rest &&
            (() => edit([{ op: "set", path: [...path, "rest"], value: null }], `${shownName(card)} without rest`))
          }
        />
      )}
      <div className="flex items-center gap-2 pt-1 text-[11.5px] text-quiet">
        {facts && (
          <Residue share={facts.share} largest={facts.largest} rest={rest !== undefined && rest.enabled !== false} />
        )}
        <span className="flex-1" />
        <LightMenu card={card} source={source} names={names} first={first} />
      </div>
    </section>
  );
}

const percent = (share: number): string => `${(share * 100).toFixed(share < 0.0995 ? 2 : 0)} %`;

/** How far the lights are from the beauty as they were rendered. */
function Residue({ share, largest, rest }: { share: number; largest: number; rest: boolean }) {
  const small = share < 0.0005;
  return (
    <Hint text="what the light passes, as they were rendered, leave of the beauty: its mean to the beauty's, and its largest value">
      <span data-testid="residue" className={small || rest ? "" : "text-amber"}>
        residue <span className="value">{small ? "none" : percent(share)}</span>
        {!small && <span className="value"> · largest {largest.toPrecision(2)}</span>}
        {!small && rest && " · added as rest"}
      </span>
    </Hint>
  );
}

type RowProps = {
  title: string;
  hint?: string;
  path: string[];
  light: Light;
  first: Edit[];
  /** Passes that may multiply it. */
  factors: string[];
  onOut?: () => void;
};

/** Where a light shines, and the pass it is multiplied by. */
function Limits({ title, path, light, first, factors }: Omit<RowProps, "hint" | "onOut">) {
  const { shot, edit } = useSessionParts("shot", "edit");
  if (!shot) return null;
  const put = (key: string, value: string | null) =>
    edit(
      [...first, { op: "set", path: [...path, key], value }],
      value ? `${title} ${key === "matte" ? "through" : "times"} ${value}` : `${title} as it is`,
    );
  const mattes = listedMattes(shot).map(([id, one]) => ({
    value: id,
    text: one.name ?? id,
  }));
  return (
    <>
      <ChoiceRow
        label="through"
        value={light.matte ? matteOf(light.matte) : ""}
        choices={[{ value: "", text: "everywhere" }, ...mattes]}
        onChoose={(id) => put("matte", id || null)}
      />
      {(factors.length > 0 || light.times) && (
        <ChoiceRow
          label="times"
          value={light.times ?? ""}
          choices={[{ value: "", text: "nothing" }, ...factors]}
          onChoose={(name) => put("times", name || null)}
        />
      )}
    </>
  );
}

function LightRow({ title, hint, path, light, first, factors, onOut }: RowProps) {
  const model = useModels()?.light.properties;
  const edit = useSessionParts("edit").edit;
  const [open, setOpen] = useState(light.tint !== undefined || light.matte !== undefined || light.times !== undefined);
  const on = light.enabled !== false;
  if (!model) return null;
  const gain = { ...(model.gain as Field), title, ...(hint ? { formula: hint } : {}) };
  return (
    <div>
      <div className="flex items-center gap-1.5">
        <OnSwitch
          label={`Light ${title}`}
          on={on}
          title={on ? "leave it out" : "put it in"}
          onToggle={() =>
            edit(
              [...first, { op: "set", path: [...path, "enabled"], value: on ? false : null }],
              `${title} ${on ? "off" : "on"}`,
            )
          }
        />
        <div className="min-w-0 flex-1">
          <AnimatedField
            path={[...path, "gain"]}
            name={`gain of ${title}`}
            value={light.gain}
            field={gain}
            bounds={boundsOf(gain)}
            first={first}
          />
        </div>
        <button
          type="button"
          aria-expanded={open}
          aria-label={`Tint, matte and factor of ${title}`}
          title="tint, matte, times a pass"
          onClick={() => setOpen(!open)}
          className="text-quiet hover:text-text"
        >
          {open ? <ChevronDown size={12} /> : <ChevronRight size={12} />}
        </button>
      </div>
      {open && (
        <div className="pl-[15px]">
          <div className="flex items-center gap-1.5 ">
            <div className="min-w-0 flex-1">
              <NumbersField
                path={[...path, "tint"]}
                name={`tint of ${title}`}
                value={light.tint}
                field={{ ...(model.tint as Field), title: "tint" }}
                letters={["R", "G", "B"]}
                well
                first={first}
              />
            </div>
            {onOut && (
              <IconButton label={`Take ${title} out`} look="ghost" className="h-[20px]! w-[18px]!" onClick={onOut}>
                <X size={12} />
              </IconButton>
            )}
          </div>
          <Limits title={title} path={path} light={light} first={first} factors={factors} />
        </div>
      )}
    </div>
  );
}
