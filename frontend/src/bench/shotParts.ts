import type { ShotState } from "../api/client";
import type { Card, Document, Treatment } from "../api/document";

export type Channel = "colour" | "red" | "green" | "blue" | "alpha" | "luma";
export type MatteLook = "matte" | "tint" | "cut" | "edges" | "leaks";
export type LookingAt =
  | { kind: "picture" }
  | { kind: "pass" | "ids"; source: string; name: string }
  | { kind: MatteLook; name: string; at?: [number, number] }
  | { kind: "sum"; names: string[] };

export const documentOf = (shot: ShotState): Document => shot.document as unknown as Document;
export const cardsOf = (shot: ShotState | null): Card[] => (shot ? (documentOf(shot).build ?? []) : []);
export const shownName = (card: Card): string => card.name ?? card.id;
export const cardName = (shot: ShotState | null, id: string | null): string => {
  const card = cardsOf(shot).find((one) => one.id === id);
  return card ? shownName(card) : (id ?? "");
};
/** What a matte is called; its id where nobody gave it a name. */
export const matteName = (shot: ShotState | null, id: string): string =>
  (shot && documentOf(shot).mattes?.[id]?.name) ?? id;

/** The mattes that a look shows. */
export const mattesOf = (look: LookingAt): string[] =>
  look.kind === "sum" ? look.names : "name" in look && !("source" in look) ? [look.name] : [];

export function treatmentOf(shot: ShotState | null, id: string | null): Treatment | undefined {
  return cardsOf(shot)
    .flatMap((card) => card.treatments ?? [])
    .find((treatment) => treatment.id === id);
}
