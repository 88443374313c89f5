import type { Rect } from "./looks";
import type { Point } from "./placingMath";

/** Where the picture lies on the stage: one of its pixels is `zoom` high, and `wide` times as much across. */
export type Placing = { zoom: number; wide: number; x: number; y: number };
export type Size = { width: number; height: number };
/** The picture: its size in pixels, and how many times as wide as high these are shown. */
export type Frame = Size & { wide: number };

const MARGIN = 12;

export function fitted(stage: Size, { width, height, wide }: Frame): Placing {
  const zoom = Math.min((stage.width - 2 * MARGIN) / (width * wide), (stage.height - 2 * MARGIN) / height);
  return centred(stage, { width, height, wide }, Math.max(0.02, zoom));
}

export function centred(stage: Size, { width, height, wide }: Frame, zoom: number): Placing {
  return {
    zoom,
    wide,
    x: Math.round((stage.width - width * wide * zoom) / 2),
    y: Math.round((stage.height - height * zoom) / 2),
  };
}

/** Zoom by a factor with the point under the cursor held still. */
export function zoomedAt(placing: Placing, by: number, x: number, y: number): Placing {
  const zoom = Math.min(32, Math.max(0.05, placing.zoom * by));
  const real = zoom / placing.zoom;
  return { ...placing, zoom, x: x - (x - placing.x) * real, y: y - (y - placing.y) * real };
}

/** How much of the stage something takes that measures so much in pixels of the picture, across and down. */
export const stretched = ({ zoom, wide }: Placing, [x, y]: Point): Point => [x * zoom * wide, y * zoom];

/** The other way round: a way on the stage in pixels of the picture. */
export const unstretched = ({ zoom, wide }: Placing, [x, y]: Point): Point => [x / (zoom * wide), y / zoom];

/** A place of the picture on the stage. */
export function onStage(placing: Placing, at: Point): Point {
  const [x, y] = stretched(placing, at);
  return [placing.x + x, placing.y + y];
}

/** A place of the stage in the picture, between its pixels as well. */
export const inPicture = (placing: Placing, [x, y]: Point): Point =>
  unstretched(placing, [x - placing.x, y - placing.y]);

export function toPicture(placing: Placing, x: number, y: number): Point {
  const at = inPicture(placing, [x, y]);
  return [Math.floor(at[0]), Math.floor(at[1])];
}

/** The part of the picture that can be seen, in whole pixels. */
export function visible(placing: Placing, stage: Size, picture: Size): Rect {
  const [x0, y0] = toPicture(placing, 0, 0);
  const [x1, y1] = toPicture(placing, stage.width, stage.height);
  return [Math.max(0, x0), Math.max(0, y0), Math.min(picture.width, x1 + 1), Math.min(picture.height, y1 + 1)];
}

/** How finely a picture is asked for: by whichever way its pixels are larger on the stage. */
export const finenessOf = ({ zoom, wide }: Placing): number => zoom * Math.max(1, wide);
