import type { Schemas } from "../api/client";
import type { Space } from "../api/document";

type Request = Schemas["RenderRequest"];
export type Format = NonNullable<Request["format"]>;
type PixelType = NonNullable<Request["type"]>;
type Pack = NonNullable<Request["pack"]>;

export const FORMATS: [Format, string][] = [
  ["exr", "EXR"],
  ["png", "PNG"],
  ["tiff", "TIFF"],
  ["jpeg", "JPEG"],
];
const CODED: [PixelType, string][] = [
  ["8", "8 bit, through the view"],
  ["16", "16 bit, through the view"],
];
export const TYPES: Record<Format, [PixelType, string][]> = {
  exr: [
    ["half", "half float, linear"],
    ["float", "full float, linear"],
  ],
  png: CODED,
  tiff: CODED,
  jpeg: [["8", "8 bit, through the view, without alpha"]],
};
export const SIZES = [
  ["1", "full"],
  ["2", "half"],
  ["4", "a quarter"],
  ["8", "an eighth"],
] as const;
export const SPACES: [Space, string][] = [
  ["lin_rec709", "linear, BT.709"],
  ["lin_ap1", "ACEScg: linear, AP1"],
];
export const PACKS: [Pack, string][] = [
  ["single", "one matte a file"],
  ["rgb", "three a file: red, green, blue"],
  ["rgba", "four a file: and alpha"],
  ["named", "all in one EXR, by name"],
];
/** Whether files of a format can hold mattes that are put together in this way. */
export const holds = (format: Format, pack: Pack) =>
  pack === "named" ? format === "exr" : pack !== "rgba" || format !== "jpeg";
