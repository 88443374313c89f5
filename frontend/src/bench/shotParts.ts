import type { ShotState } from "../api/client";
import type { Card, Document, Matte, Treatment } from "../api/document";

const NATURAL = new Intl.Collator("en", { numeric: true });

export type Channel = "colour" | "red" | "green" | "blue" | "alpha" | "luma";
export type MatteLook = "matte" | "tint" | "cut" | "edges" | "leaks";
/** What a card that is looked at by itself is shown on. */
/** What the picture is compared with: itself without the open treatment or card, what was rendered, or what it was; that also `with` what it
 * was at another time in place of what it is. */
export type Against = "treatment" | "card" | "beauty" | { revision: number; with?: number };
export type Ground = "black" | "grey" | "checks";
export type LookingAt =
  | { kind: "picture" }
  | { kind: "card"; card: string; ground: Ground }
  | { kind: "residue" | "focus"; card: string }
  | { kind: "laid"; card: string; name: string }
  | { kind: "pass" | "ids"; source: string; name: string }
  | { kind: MatteLook; name: string; at?: [number, number] }
  | { kind: "sum"; names: string[] };

export const documentOf = (shot: ShotState): Document => shot.document as unknown as Document;
/** The cards of a bundle; none of any other. */
export const insideOf = (card: Card | undefined): Card[] =>
  card?.picture?.kind === "bundle" ? ((card.picture.build ?? []) as Card[]) : [];
const withInside = (card: Card): Card[] => [card, ...insideOf(card).flatMap(withInside)];
/** All cards, those in bundles too, backmost first. */
export const cardsOf = (shot: ShotState | null): Card[] =>
  shot ? (documentOf(shot).build ?? []).flatMap(withInside) : [];
/** The cards of the shot's own build, or of the bundle that is open in its place. */
export const buildOf = (shot: ShotState | null, bundle: string | null): Card[] =>
  bundle ? insideOf(cardsOf(shot).find((card) => card.id === bundle)) : shot ? (documentOf(shot).build ?? []) : [];
/** The bundle that a card is in, if it is in one. */
export const bundleOf = (shot: ShotState | null, id: string): string | null =>
  cardsOf(shot).find((card) => insideOf(card).some((one) => one.id === id))?.id ?? null;
/** The ids of all treatments of a shot. */
export const treatmentIds = (shot: ShotState | null): string[] =>
  cardsOf(shot).flatMap((card) => (card.treatments ?? []).map((one) => one.id));
/** Where a card is in the document, for edits. */
export function pathOf(shot: ShotState | null, id: string): string[] {
  const bundle = bundleOf(shot, id);
  return bundle ? [...pathOf(shot, bundle), "picture", "build", id] : ["build", id];
}
/** Where the cards of a build are. */
export const buildPath = (shot: ShotState | null, bundle: string | null): string[] =>
  bundle ? [...pathOf(shot, bundle), "picture", "build"] : ["build"];
/** Whether there is anything to see of what a card is focused on. */
export const canFocus = (card: Card | undefined): boolean =>
  card?.treatments?.some((one) => one.kind === "defocus" && one.enabled !== false && one.mode !== "uniform") ?? false;
export const shownName = (card: Card): string => card.name ?? card.id;
export const cardName = (shot: ShotState | null, id: string | null): string => {
  const card = cardsOf(shot).find((one) => one.id === id);
  return card ? shownName(card) : (id ?? "");
};
/** What a matte is called; its id where nobody gave it a name. */
export const matteName = (shot: ShotState | null, id: string): string =>
  (shot && documentOf(shot).mattes?.[id]?.name) ?? id;

/** The mattes of a shot with their ids, as they are listed: by what they are called, 2 before 10. */
export const listedMattes = (shot: ShotState | null): [string, Matte][] => {
  const called = ([id, matte]: [string, Matte]) => matte.name ?? id;
  return Object.entries((shot && documentOf(shot).mattes) ?? {}).sort((one, other) =>
    NATURAL.compare(called(one), called(other)),
  );
};

/** The mattes that a look shows. */
export const mattesOf = (look: LookingAt): string[] =>
  look.kind === "sum" ? look.names : "name" in look && !("source" in look || "card" in look) ? [look.name] : [];

export function treatmentOf(shot: ShotState | null, id: string | null): Treatment | undefined {
  return cardsOf(shot)
    .flatMap((card) => card.treatments ?? [])
    .find((treatment) => treatment.id === id);
}
