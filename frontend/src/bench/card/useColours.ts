import { useModels } from "../../api/models";
import { useSession } from "../session";
import { documentOf } from "../shotParts";
import { byte, linear } from "./plots/display";

export const rounded = (value: number) => Number(value.toPrecision(4));
const times = (matrix: number[][] | undefined, colour: number[]): number[] =>
  matrix ? matrix.map((row) => row.reduce((sum, part, i) => sum + part * (colour[i] ?? 0), 0)) : colour;

export type Colours = {
  /** A colour of the document, which is light of the primaries that the shot works in, as a display shows it. */
  hex: (colour: number[]) => string;
  css: (colour: number[], alpha: number) => string;
  /** What such a colour is to be, to be shown so. */
  fromHex: (text: string) => number[];
};

/** Colours between a document and a display, whose primaries may be others than those that are worked in. */
export function useColours(): Colours {
  const spaces = useModels()?.working;
  const space = useSession((s) => spaces?.[(s.shot && documentOf(s.shot).colour?.working) ?? "lin_rec709"]);
  const codes = (colour: number[]) => times(space?.to_display, colour).map(byte);
  return {
    hex: (colour) =>
      `#${codes(colour)
        .map((code) => code.toString(16).padStart(2, "0"))
        .join("")}`,
    css: (colour, alpha) => `rgb(${codes(colour).join(" ")} / ${alpha})`,
    fromHex: (text) =>
      times(
        space?.from_display,
        [1, 3, 5].map((at) => linear(Number.parseInt(text.slice(at, at + 2), 16) / 255)),
      ).map(rounded),
  };
}
