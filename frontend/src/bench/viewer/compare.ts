import { type Session, useSession, useSessionParts } from "../session";
import { type Against, cardsOf, mattesOf, shownName, treatmentOf } from "../shotParts";
import { useContents } from "../useContents";
import type { Wanted } from "./useLook";
import { APART, FLIP, WIPE } from "./ways";

/** What the picture is compared with: how that is asked for, and what either of both is called. `own` is what stands in the place of the
 * picture itself. */
export type Comparison = { other: Partial<Wanted>; own?: Partial<Wanted>; now: string; was: string };

type Parts = Pick<Session, "shot" | "against" | "openTreatment" | "openCard" | "lookingAt">;
type Beauty = { source: string; name: string };

/** What can be compared with here; the first is what is, where nothing else was chosen. */
export function comparisons(parts: Parts, beauties: Beauty[]): [Against, Comparison][] {
  const { shot, against, openTreatment, openCard } = parts;
  const treatment = treatmentOf(shot, openTreatment);
  const card = cardsOf(shot).find((one) => one.id === openCard);
  const name = treatment?.name ?? treatment?.kind;
  const found: [Against, Comparison][] = [];
  if (treatment)
    found.push(["treatment", { other: { without: treatment.id }, now: `after ${name}`, was: `before ${name}` }]);
  if (card) {
    const called = shownName(card);
    found.push(["card", { other: { off: card.id }, now: `with ${called}`, was: `without ${called}` }]);
  }
  const used = JSON.stringify(card?.picture ?? "");
  const beauty = beauties.find(({ source }) => used.includes(JSON.stringify(source))) ?? beauties[0];
  if (beauty)
    found.push([
      "beauty",
      { other: { lookingAt: { kind: "pass", ...beauty } }, now: "now", was: `beauty of ${beauty.source}` },
    ]);
  if (typeof against === "object") {
    const { revision, with: second } = against;
    const at = (number: number) => ({ revision: number, overrides: [] });
    const own = second === undefined ? undefined : at(second);
    const now = second === undefined ? "now" : `revision ${second}`;
    found.push([against, { other: at(revision), own, now, was: `revision ${revision}` }]);
  }
  return found;
}

/** All that the picture can be compared with, and what it is compared with; nothing while mattes are looked at. */
export function useComparisons(): { all: [Against, Comparison][]; chosen: Comparison | null } {
  const parts = useSessionParts("shot", "against", "openTreatment", "openCard", "lookingAt");
  const contents = useContents();
  if (!parts.shot || mattesOf(parts.lookingAt).length) return { all: [], chosen: null };
  const beauties = (contents?.sources ?? []).flatMap((source) =>
    source.passes.filter((pass) => pass.kind === "beauty").map((pass) => ({ source: source.name, name: pass.name })),
  );
  const all = comparisons(parts, beauties);
  const chosen = all.find(([against]) => against === parts.against) ?? all[0];
  return { all, chosen: chosen?.[1] ?? null };
}

/** Takes one of these ways, or lets it go; nothing while mattes are looked at. */
export function toggle(way: "flip" | "wipe" | "apart"): void {
  const { before, wipe, apart, lookingAt, set } = useSession.getState();
  if (mattesOf(lookingAt).length) return;
  if (way === "flip") set(FLIP(!before));
  else if (way === "wipe") set(WIPE(wipe === null ? 0.5 : null));
  else set(APART(!apart));
}
