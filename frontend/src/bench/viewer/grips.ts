/** What of a treatment has a place or a size in the picture, and by which of its values. */
export type Grip =
  /** A distance from where it was touched: as a ring, or as a band. */
  | { shape: "ring" | "band"; key: string; title: string; usual: number }
  /** A direction and a length from there; degrees counter-clockwise. */
  | { shape: "arrow"; angle: string; length: string; title: string; usual: [number, number] }
  /** A place of the frame; its middle where none is set. */
  | { shape: "place"; key: string; title: string }
  /** What lies under it is made sharp. */
  | { shape: "focus"; title: string };

const CENTRE: Grip = { shape: "place", key: "centre", title: "Centre" };
const WIDTH: Grip = { shape: "band", key: "width", title: "Width", usual: 15 };

export const GRIPS: Record<string, Grip[]> = {
  bloom: [{ shape: "ring", key: "size", title: "Size", usual: 20 }],
  halo: [{ shape: "ring", key: "size", title: "Size", usual: 40 }],
  spikes: [{ shape: "arrow", angle: "angle", length: "length", title: "Arm", usual: [0, 60] }],
  cast: [{ shape: "arrow", angle: "angle", length: "distance", title: "Shadow", usual: [-50, 24] }],
  reflections: [{ ...CENTRE, title: "Optical centre" }],
  outline: [{ shape: "place", key: "from", title: "Start" }],
  wrap: [WIDTH],
  bleed: [WIDTH],
  defocus: [{ shape: "focus", title: "Focus" }],
  vignette: [CENTRE],
  fringe: [CENTRE],
  warp: [CENTRE],
};
