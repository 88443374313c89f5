import type { Schemas } from "../api/client";

export type MovieKind = Schemas["MovieRequest"]["movie"];

/** What movies can be made, and what each is for. */
export const MOVIES: [MovieKind, string][] = [
  ["h264", "H.264, to review"],
  ["prores_422", "ProRes 422 HQ, 10 bit"],
  ["prores_4444", "ProRes 4444, with alpha"],
];
