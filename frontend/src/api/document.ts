/** The parts of a shot document that the page reads; the server checks every edit against the full models. */

/** Kinds of light passes: what a beauty is made of. */
export const LIGHT_PASSES =
  "diffuse specular reflection refraction emission subsurface volume coat sheen ambient".split(" ");
/** The light of one lamp, or of some: another way to part a beauty. */
export const LIGHT_GROUP = "light_group";
/** Kinds that are parts of a beauty. */
export const LIGHT_PARTS = [...LIGHT_PASSES, LIGHT_GROUP];
/** Kinds of passes that are light: the beauty and what it is made of. */
export const LIGHT_KINDS = ["beauty", ...LIGHT_PARTS];
/** Kinds that are looked at as light, through the view. */
export const PICTURE_KINDS = [...LIGHT_KINDS, "shadow", "occlusion", "surface_colour", "line"];

/** Primaries of light that is worked in, or written. */
export type Space = "lin_rec709" | "lin_ap1";
export const SPACE_NAMES: Record<Space, string> = { lin_rec709: "BT.709", lin_ap1: "ACEScg" };

export type PassSetting = {
  kind?: string;
  alpha?: string;
  polarity?: "light" | "shadow" | "taken";
  association?: "file" | "multiply" | "as_is";
  repair?: boolean;
  round?: boolean;
};

export type Source = {
  colour?: string;
  path: string;
  offset?: number;
  missing?: "error" | "hold";
  attached?: Record<string, { path: string; offset?: number }>;
  passes?: Record<string, PassSetting>;
};

export type Ease = "hold" | "linear" | "smooth" | ["bezier", number, number, number, number];
export type Keys = { keys: [number, unknown, Ease][] };
export type Animated = number | number[] | Keys;

export type MatteRef = string | { matte: string; invert?: boolean; on?: string };

export type Tuck = { behind: MatteRef; card: string; frames?: [number, number] };

export type Treatment = {
  id: string;
  kind: string;
  name?: string;
  enabled?: boolean;
  through?: MatteRef;
  of?: "alpha" | MatteRef;
  camera?: "own" | "shot";
  feed?: "card" | "above" | { matte: MatteRef } | { pass: string } | { card: string; pass?: string };
  lay?: { join?: string };
  [parameter: string]: unknown;
};

export type Picture = { kind: string; source?: string; [parameter: string]: unknown };

/** A colour at a place along a gradient; what is left out is 0, black and 1. */
export type GradientStop = { at?: number | Keys; colour?: number[] | Keys; alpha?: number | Keys };
/** The stops of a gradient that has none of its own. */
export const USUAL_STOPS: GradientStop[] = [
  { at: 0, colour: [0, 0, 0] },
  { at: 1, colour: [1, 1, 1] },
];

export type Card = {
  id: string;
  name?: string;
  enabled?: boolean;
  treat?: boolean;
  picture?: Picture;
  cut?: MatteRef[];
  placing?: Record<string, unknown>;
  follow?: string;
  tuck?: Tuck[];
  note?: string;
  join?: string;
  blend_in?: "linear" | "display";
  opacity?: Animated;
  depth?: Animated;
  treatments?: Treatment[];
};

export type Matte = {
  kind: string;
  name?: string;
  layer?: string;
  names?: (string | number)[];
  how?: string;
  bake?: { source: string; pass: string };
};

export type Document = {
  name: string;
  colour?: { view?: "srgb" | "aces"; working?: Space };
  format: {
    width: number;
    height: number;
    pixel_aspect?: number;
    fps: number | [number, number];
    first: number;
    last: number;
  };
  sources?: Record<string, Source>;
  mattes?: Record<string, Matte>;
  build?: Card[];
  camera?: Record<string, unknown>;
};

/** The sources that are nothing but mattes written for speed. */
export const bakesOf = (document: Document): Set<string> =>
  new Set(Object.values(document.mattes ?? {}).flatMap((matte) => (matte.bake ? [matte.bake.source] : [])));

export const sourcesOf = (document: unknown): Record<string, Source> => (document as Document).sources ?? {};

export const isKeys = (value: unknown): value is Keys =>
  typeof value === "object" && value !== null && !Array.isArray(value) && "keys" in value;

/** A number that trembles below what it is. */
export type Flicker = { flicker: number; of: number | Keys; every?: number; seed?: number };

export const isFlicker = (value: unknown): value is Flicker =>
  typeof value === "object" && value !== null && !Array.isArray(value) && "flicker" in value;

export const matteOf = (reference: MatteRef): string => (typeof reference === "string" ? reference : reference.matte);

export const rateOf = (fps: number | [number, number]): number => (Array.isArray(fps) ? fps[0] / fps[1] : fps);

/** How far along a value is at the time fraction u of a segment; mirrors the core's eases for drawing only. */
function eased(u: number, ease: Ease): number {
  if (ease === "hold") return 0;
  if (ease === "linear") return u;
  if (ease === "smooth") return u * u * (3 - 2 * u);
  const [, x1, y1, x2, y2] = ease;
  let low = 0;
  let high = 1;
  for (let i = 0; i < 30; i++) {
    const t = (low + high) / 2;
    const x = 3 * (1 - t) ** 2 * t * x1 + 3 * (1 - t) * t * t * x2 + t ** 3;
    if (x < u) low = t;
    else high = t;
  }
  return 3 * (1 - low) ** 2 * low * y1 + 3 * (1 - low) * low * low * y2 + low ** 3;
}

/** The value of a number, or of a tuple, at a frame. */
export function valueAt<T extends number | number[]>(value: T | Keys, frame: number): T {
  // of what flickers, what it is at most
  if (isFlicker(value)) return valueAt(value.of as T | Keys, frame);
  if (!isKeys(value)) return value;
  const keys = value.keys;
  const after = keys.findIndex(([at]) => at > frame);
  const last = keys[keys.length - 1];
  if (after === 0) return keys[0]?.[1] as T;
  if (after < 0) return last?.[1] as T;
  const [start, a, ease] = keys[after - 1] as [number, T, Ease];
  const [end, b] = keys[after] as [number, T, Ease];
  const way = eased((frame - start) / (end - start), ease);
  if (typeof a === "number" && typeof b === "number") return (a + (b - a) * way) as T;
  return (a as number[]).map((x, i) => x + (((b as number[])[i] ?? 0) - x) * way) as T;
}

/** The value with a key at a frame set to something; a plain value stays plain unless `key` is true. */
export function withValue(current: unknown, frame: number, value: unknown, key = false): unknown {
  if (!isKeys(current)) return key ? { keys: [[frame, value, "smooth"]] } : value;
  const others = current.keys.filter(([at]) => at !== frame);
  const ease = current.keys.find(([at]) => at === frame)?.[2] ?? "smooth";
  const keys = [...others, [frame, value, ease] as [number, unknown, Ease]].sort((a, b) => a[0] - b[0]);
  return { keys };
}

/** A click on a number's graph: sets a key here, or removes the one that is here. */
export function toggleKey(current: unknown, frame: number): unknown {
  if (!isKeys(current)) return withValue(current, frame, current, true);
  if (!current.keys.some(([at]) => at === frame)) {
    return withValue(current, frame, valueAt(current as Keys, frame));
  }
  const left = current.keys.filter(([at]) => at !== frame);
  return left.length ? { keys: left } : current.keys[0]?.[1];
}
