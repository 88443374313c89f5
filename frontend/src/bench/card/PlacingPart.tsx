import { ChevronDown } from "lucide-react";
import { type Card, valueAt } from "../../api/document";
import { type Field, useModels } from "../../api/models";
import { Menu } from "../../controls/Menu";
import { type Edit, useSessionParts } from "../session";
import { buildOf, bundleOf, cardName, documentOf, pathOf, shownName } from "../shotParts";
import { FoldedPart } from "./FoldedPart";
import { NumbersField } from "./NumbersField";
import { Parameters } from "./Parameters";

const PAIRS = ["move", "scale", "about"];
const LETTERS = ["X", "Y"];

/** Where the card stands in the frame: numbers, each of them keyed if wanted. */
export function PlacingPart({ card }: { card: Card }) {
  const { shot, frame, handles: open, edit, set } = useSessionParts("shot", "frame", "handles", "edit", "set");
  const model = useModels()?.placing;
  if (!shot || !model) return null;
  const { width, height } = documentOf(shot).format;
  const placing = card.placing ?? {};
  const path = [...pathOf(shot, card.id), "placing"];
  const pair = (name: string) => (
    <NumbersField
      path={[...path, name]}
      name={name}
      value={placing[name]}
      field={model.properties[name] as Field}
      letters={LETTERS}
      bound={100000}
      fallback={name === "about" ? [width / 2, height / 2] : undefined}
    />
  );
  return (
    <section className="px-3 pb-2" aria-label="Placing">
      <FoldedPart name="Placing" said={said(placing, frame)} open={open} onToggle={() => set({ handles: !open })}>
        <FollowRow card={card} onFollow={edit} />
        {pair("move")}
        <Parameters model={model} values={placing} path={path} skip={[...PAIRS, "filter"]} />
        {pair("scale")}
        {pair("about")}
        <Parameters model={model} values={placing} path={path} skip={[...PAIRS, "turn"]} />
      </FoldedPart>
    </section>
  );
}

/** The card whose placing this one moves with. */
function FollowRow({ card, onFollow }: { card: Card; onFollow: (edits: Edit[], command: string) => void }) {
  const { shot } = useSessionParts("shot");
  const others = buildOf(shot, bundleOf(shot, card.id)).filter((one) => one.id !== card.id && !one.treat);
  if (!others.length) return null;
  const path = [...pathOf(shot, card.id), "follow"];
  return (
    <div className="grid h-[27px] grid-cols-[78px_1fr] items-center gap-2">
      <span className="text-quiet">Follows</span>
      <Menu
        trigger={
          <button
            type="button"
            className="flex h-[22px] min-w-0 items-center rounded-sm bg-control px-2 text-left hover:bg-raised"
          >
            <span className="truncate">{card.follow ? cardName(shot, card.follow) : "no card"}</span>
            <ChevronDown size={12} className="ml-auto shrink-0 text-quiet" />
          </button>
        }
        sections={[
          {
            choices: [
              {
                key: "none",
                label: "no card",
                onPick: () => onFollow([{ op: "set", path, value: null }], `${shownName(card)} follows no card`),
              },
            ],
          },
          {
            title: "moves with",
            choices: others.map((one) => ({
              key: one.id,
              label: shownName(one),
              onPick: () =>
                onFollow([{ op: "set", path, value: one.id }], `${shownName(card)} follows ${shownName(one)}`),
            })),
          },
        ]}
      />
    </div>
  );
}

/** What is set of it at a frame, in a few words. */
function said(placing: Record<string, unknown>, frame: number): string {
  const numbers = (name: string) => {
    const value = placing[name];
    return value === undefined ? null : [valueAt(value as number | number[], frame)].flat().map(short);
  };
  const move = numbers("move");
  const turn = numbers("turn");
  const scale = numbers("scale");
  const parts = [
    move && `${move.join(", ")} px`,
    turn && `${turn}°`,
    scale && `× ${scale[0] === scale[1] ? scale[0] : scale.join(", ")}`,
  ];
  return parts.filter(Boolean).join(" · ") || "as rendered";
}

const short = (value: number) => String(Number(value.toFixed(2)));
