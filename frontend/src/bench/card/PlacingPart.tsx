import { useState } from "react";
import { type Card, valueAt } from "../../api/document";
import { type Field, useModels } from "../../api/models";
import { useSessionParts } from "../session";
import { documentOf, pathOf } from "../shotParts";
import { FoldedPart } from "./FoldedPart";
import { NumbersField } from "./NumbersField";
import { Parameters } from "./Parameters";

const PAIRS = ["move", "scale", "about"];
const LETTERS = ["X", "Y"];

/** Where the card stands in the frame: numbers, each of them keyed if wanted. */
export function PlacingPart({ card }: { card: Card }) {
  const { shot, frame } = useSessionParts("shot", "frame");
  const model = useModels()?.placing;
  const [open, setOpen] = useState(false);
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
      <FoldedPart name="Placing" said={said(placing, frame)} open={open} onToggle={() => setOpen(!open)}>
        {pair("move")}
        <Parameters model={model} values={placing} path={path} skip={[...PAIRS, "filter"]} />
        {pair("scale")}
        {pair("about")}
        <Parameters model={model} values={placing} path={path} skip={[...PAIRS, "turn"]} />
      </FoldedPart>
    </section>
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
