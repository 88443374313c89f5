import type { ShotState } from "../api/client";
import { SPACE_NAMES, type Space } from "../api/document";
import type { Edit } from "../bench/session";
import { documentOf } from "../bench/shotParts";

type Fps = number | [number, number];
export type View = "srgb" | "aces";

/** The fields of a shot's settings as they are typed. */
export type Draft = {
  name: string;
  first: string;
  last: string;
  fps: string;
  width: string;
  height: string;
  aspect: string;
  view: View;
  working: Space;
};

const rateText = (fps: Fps): string => (Array.isArray(fps) ? fps.join("/") : String(fps));

/** 24, 23.976, or 24000/1001 as the pair of whole numbers it is. */
function rateFrom(text: string): Fps | null {
  const pair = /^\s*(\d+)\s*\/\s*(\d+)\s*$/.exec(text);
  if (pair) return [Number(pair[1]), Number(pair[2])];
  const plain = numberFrom(text);
  return plain > 0 ? plain : null;
}

const numberFrom = (text: string): number => (text.trim() ? Number(text.replace(",", ".")) : Number.NaN);
const wholeFrom = (text: string): number | null => (/^\s*-?\d+\s*$/.test(text) ? Number(text) : null);

export function draftOf(shot: ShotState): Draft {
  const { format, colour } = documentOf(shot);
  return {
    name: shot.name,
    first: String(format.first),
    last: String(format.last),
    fps: rateText(format.fps),
    width: String(format.width),
    height: String(format.height),
    aspect: String(format.pixel_aspect ?? 1),
    view: colour?.view ?? "srgb",
    working: colour?.working ?? "lin_rec709",
  };
}

const numbersOf = ({ first, last, width, height }: Draft) => ({
  first: wholeFrom(first),
  last: wholeFrom(last),
  width: wholeFrom(width),
  height: wholeFrom(height),
});

/** What of a draft cannot be so; null where all of it can. */
export function wrongIn(draft: Draft): string | null {
  const numbers = numbersOf(draft);
  const aspect = numberFrom(draft.aspect);
  if (!draft.name.trim()) return "a shot needs a name";
  if (Object.values(numbers).includes(null)) return "frames and sizes are whole numbers";
  if (rateFrom(draft.fps) === null) return "the rate is a number such as 24, or 24000/1001";
  if (!(aspect >= 0.1 && aspect <= 10)) return "a pixel is 0.1 to 10 times as wide as high";
  if ((numbers.last ?? 0) < (numbers.first ?? 0)) return "the last frame comes at or after the first";
  if ((numbers.width ?? 0) < 1 || (numbers.height ?? 0) < 1) return "a picture has at least one pixel";
  return null;
}

/** What makes a shot what a draft says, where it says something else than it is; and in words. `more`: what another view brings along. */
export function changesOf(shot: ShotState, draft: Draft, more: Edit[]): { edits: Edit[]; words: string } {
  const before = draftOf(shot);
  const { format } = documentOf(shot);
  const edits: Edit[] = [];
  const told: string[] = [];
  const name = draft.name.trim();
  if (name !== before.name) {
    edits.push({ op: "set", path: ["name"], value: name });
    told.push(`call the shot ${name}`);
  }
  const next = {
    ...format,
    ...numbersOf(draft),
    fps: rateFrom(draft.fps),
    ...(draft.aspect === before.aspect ? {} : { pixel_aspect: numberFrom(draft.aspect) }),
  };
  if (JSON.stringify(next) !== JSON.stringify(format)) {
    edits.push({ op: "set", path: ["format"], value: next });
    told.push(`format ${draft.width}×${draft.height}, ${draft.first} to ${draft.last}`);
  }
  if (draft.view !== before.view) {
    edits.push({ op: "set", path: ["colour", "view"], value: draft.view }, ...more);
    told.push(`view ${draft.view === "aces" ? "ACES 2.0" : "sRGB"}`);
  }
  if (draft.working !== before.working) {
    edits.push({ op: "set", path: ["colour", "working"], value: draft.working });
    told.push(`work in ${SPACE_NAMES[draft.working]}`);
  }
  return { edits, words: told.length > 1 ? "name, format and colour of the shot" : (told[0] ?? "") };
}
