import type { Rect } from "./looks";

/** Where the picture lies on the stage: screen = origin + zoom x picture. */
export type Placing = { zoom: number; x: number; y: number };
export type Size = { width: number; height: number };

const MARGIN = 12;

export function fitted(stage: Size, picture: Size): Placing {
  const zoom = Math.min((stage.width - 2 * MARGIN) / picture.width, (stage.height - 2 * MARGIN) / picture.height);
  return centred(stage, picture, Math.max(0.02, zoom));
}

export function centred(stage: Size, picture: Size, zoom: number): Placing {
  return {
    zoom,
    x: Math.round((stage.width - picture.width * zoom) / 2),
    y: Math.round((stage.height - picture.height * zoom) / 2),
  };
}

/** Zoom by a factor with the point under the cursor held still. */
export function zoomedAt(placing: Placing, by: number, x: number, y: number): Placing {
  const zoom = Math.min(32, Math.max(0.05, placing.zoom * by));
  const real = zoom / placing.zoom;
  return { zoom, x: x - (x - placing.x) * real, y: y - (y - placing.y) * real };
}

export const toPicture = (placing: Placing, x: number, y: number): [number, number] => [
  Math.floor((x - placing.x) / placing.zoom),
  Math.floor((y - placing.y) / placing.zoom),
];

/** The part of the picture that can be seen, in whole pixels. */
export function visible(placing: Placing, stage: Size, picture: Size): Rect {
  const [x0, y0] = toPicture(placing, 0, 0);
  const [x1, y1] = toPicture(placing, stage.width, stage.height);
  return [Math.max(0, x0), Math.max(0, y0), Math.min(picture.width, x1 + 1), Math.min(picture.height, y1 + 1)];
}
