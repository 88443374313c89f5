import { type Options, useHotkeys } from "react-hotkeys-hook";
import { copy, duplicate, gather, isolate, meant, paste, remove } from "./cardEdits";
import { toggleComments } from "./comments/CommentsButton";
import { toggleHistory } from "./history/HistoryButton";
import { useSession } from "./session";
import { buildOf, buildPath, bundleOf, cardName, documentOf } from "./shotParts";
import { toggle } from "./viewer/compare";
import { useView } from "./viewer/view";
import { isPair, letGo } from "./viewer/ways";

const ZOOM = Math.SQRT2;
const now = () => useSession.getState();

function step(by: number): void {
  const { shot, frame, set } = now();
  if (!shot) return;
  const { first, last } = documentOf(shot).format;
  set({ frame: Math.min(last, Math.max(first, frame + by)), playing: false });
}

/** Stand on the next card towards the front or the back; past the front is the finished picture. */
function walk(by: number): void {
  const { shot, standing, inside, set } = now();
  const cards = buildOf(shot, inside);
  const at = standing === null ? cards.length - 1 : cards.findIndex((card) => card.id === standing);
  const next = Math.max(0, at + by);
  const card = cards[next];
  if (next >= cards.length - 1) set({ standing: null, openMatte: null, openCard: cards[cards.length - 1]?.id ?? null });
  else if (card) set({ standing: card.id, openCard: card.id, openMatte: null, lookingAt: { kind: "picture" } });
}

/** Move the open card one place towards the front or the back. */
function move(by: number): void {
  const { shot, openCard, inside, edit } = now();
  const cards = buildOf(shot, inside);
  const at = cards.findIndex((card) => card.id === openCard);
  const to = at + by;
  if (at < 0 || to < 0 || to >= cards.length) return;
  const before = cards[by > 0 ? to + 1 : to]?.id ?? null;
  edit(
    [{ op: "move", path: [...buildPath(shot, inside), String(openCard)], before }],
    `move card ${cardName(shot, openCard)}`,
  );
}

/** Deletes the card of the build line that is focused, with those that are chosen beside it; the keyboard goes on from the next one. */
async function removeAt({ target, repeat }: KeyboardEvent): Promise<void> {
  const sheet = target instanceof Element ? target.closest<HTMLElement>("[data-card]") : null;
  if (!sheet || repeat) return;
  const { shot, inside } = now();
  const focused = buildOf(shot, inside).filter((card) => card.id === sheet.dataset.card);
  const cards = meant();
  await remove(cards.some((card) => card.id === sheet.dataset.card) ? cards : focused);
  document.querySelector<HTMLElement>(`[data-card="${CSS.escape(now().openCard ?? "")}"] button`)?.focus();
}

/** Whether a key belongs to what is focused: text to fields, arrows to what they walk, a blank to what it ticks. */
function isTaken(event: KeyboardEvent): boolean {
  const { target, key } = event;
  if (target instanceof HTMLTextAreaElement || target instanceof HTMLSelectElement) return true;
  if (!(target instanceof HTMLInputElement)) return false;
  if (target.type === "checkbox") return key === " ";
  if (target.type === "radio" || target.type === "range") return key.startsWith("Arrow");
  return true;
}

const THROUGH: Options = { enableOnFormTags: true, ignoreEventWhen: isTaken };
/** By what is typed, wherever that is on a keyboard; a plus is a key and not between keys. */
const TYPED: Options = { ...THROUGH, useKey: true, splitKey: "|" };
const KEEP: Options = { ...THROUGH, preventDefault: true };

/** The frequent actions of the bench; fields and menus keep their own keys. */
export function useKeys(showSheet: () => void): void {
  useHotkeys("space", () => now().set({ playing: !now().playing }), KEEP);
  useHotkeys("left", () => step(-1), THROUGH);
  useHotkeys("right", () => step(1), THROUGH);
  useHotkeys("alt+left", () => walk(-1), KEEP);
  useHotkeys("alt+right", () => walk(1), KEEP);
  useHotkeys("alt+shift+left", () => move(-1), KEEP);
  useHotkeys("alt+shift+right", () => move(1), KEEP);
  useHotkeys("b", () => toggle("flip"), THROUGH);
  useHotkeys("shift+b", () => toggle("wipe"), THROUGH);
  useHotkeys("d", () => toggle("apart"), THROUGH);
  useHotkeys("h", () => now().set(toggleHistory(now().aside === "history")), THROUGH);
  useHotkeys("f", () => useView.getState().fit(), THROUGH);
  useHotkeys("1", () => useView.getState().oneToOne(), THROUGH);
  useHotkeys("+,=", () => useView.getState().zoom(ZOOM), TYPED);
  useHotkeys("-", () => useView.getState().zoom(1 / ZOOM), TYPED);
  useHotkeys("v", () => now().set({ pinned: useView.getState().under }), THROUGH);
  useHotkeys("u", () => now().set({ rank: now().rank + 1 }), THROUGH);
  useHotkeys("p", () => now().set({ lookingAt: { kind: "picture" }, standing: null, channel: "colour" }), THROUGH);
  useHotkeys("s", () => now().set({ scopes: !now().scopes }), THROUGH);
  useHotkeys("n", () => now().set(toggleComments(now().aside === "comments")), THROUGH);
  useHotkeys("i", isolate, THROUGH);
  useHotkeys("g", () => gather(), THROUGH);
  useHotkeys("mod+d", () => duplicate(), KEEP);
  useHotkeys("mod+c", () => !getSelection()?.toString() && copy(), THROUGH);
  useHotkeys("mod+v", () => paste(), THROUGH);
  useHotkeys("delete", (event) => removeAt(event), THROUGH);
  useHotkeys("mod+z", () => now().travel("undo"), KEEP);
  useHotkeys("mod+shift+z", () => now().travel("redo"), KEEP);
  useHotkeys(
    "esc",
    () => {
      const { shot, lookingAt, standing, marked, inside, wipe, before, apart, against, set } = now();
      if (wipe !== null || before || apart || isPair(against)) set(letGo(against));
      else if (lookingAt.kind !== "picture") set({ lookingAt: { kind: "picture" }, channel: "colour" });
      else if (standing) set({ standing: null });
      else if (marked.length) set({ marked: [] });
      else if (inside) set({ inside: bundleOf(shot, inside), openCard: inside });
    },
    THROUGH,
  );
  useHotkeys("?", showSheet, { ...THROUGH, useKey: true });
}
