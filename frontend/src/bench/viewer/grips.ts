/** What of a treatment has a place or a size in the picture, and by which of its values. */
export type Grip = Shape & { shown?: (value: (key: string) => number) => boolean };

type Shape =
  /** A distance from where it was touched: as a ring, or as a band. */
  | { shape: "ring" | "band"; key: string; title: string; usual: number }
  /** A direction and a length from there, or from a place; degrees counter-clockwise. A length of 1 is shown as `unit` pixels. */
  | {
      shape: "arrow";
      angle: string;
      length: string;
      title: string;
      usual: [number, number];
      unit?: number;
      from?: string;
    }
  /** A place of the frame; where none is set its middle, or where it was touched. */
  | { shape: "place"; key: string; title: string; touched?: boolean }
  /** What lies under it is made sharp. */
  | { shape: "focus"; title: string };

const CENTRE: Grip = { shape: "place", key: "centre", title: "Centre" };
const WIDTH: Grip = { shape: "band", key: "width", title: "Width", usual: 15 };

export const GRIPS: Record<string, Grip[]> = {
  bloom: [{ shape: "ring", key: "size", title: "Size", usual: 20 }],
  halo: [{ shape: "ring", key: "size", title: "Size", usual: 40 }],
  spikes: [{ shape: "arrow", angle: "angle", length: "length", title: "Arm", usual: [0, 60] }],
  cast: [
    {
      shape: "arrow",
      angle: "angle",
      length: "distance",
      title: "Shadow",
      usual: [-50, 24],
      shown: (value) => !value("lay_down"),
    },
    {
      shape: "arrow",
      angle: "angle",
      length: "length",
      title: "Shadow of 100 px",
      usual: [-50, 1],
      unit: 100,
      from: "foot",
      shown: (value) => value("lay_down") > 0,
    },
    { shape: "place", key: "foot", title: "Foot", touched: true, shown: (value) => value("lay_down") > 0 },
  ],
  reflections: [{ ...CENTRE, title: "Optical centre" }],
  outline: [{ shape: "place", key: "from", title: "Start" }],
  wrap: [WIDTH],
  bleed: [WIDTH],
  defocus: [{ shape: "focus", title: "Focus" }],
  vignette: [CENTRE],
  fringe: [CENTRE],
  warp: [CENTRE],
};
