import { answer, api } from "../api/client";
import type { Card } from "../api/document";
import { listed } from "../controls/listed";
import { report, told } from "../controls/notices";
import { freshName } from "./freshName";
import { type Edit, useSession } from "./session";
import { buildOf, buildPath, bundleOf, cardsOf, insideOf, pathOf, shownName, treatmentIds } from "./shotParts";
import { toldStep } from "./toldStep";

/** What is done to cards by buttons and by keys alike. */

/** Cards as words, for the step that is told in the history. */
const named = (cards: Card[]): string =>
  cards.length === 1 ? `card ${shownName(cards[0] as Card)}` : `${cards.length} cards`;

/** The marked cards in their order, or the open one. */
export function meant(): Card[] {
  const { shot, marked, openCard, inside } = useSession.getState();
  const here = buildOf(shot, inside);
  const chosen = here.filter((card) => marked.includes(card.id));
  return chosen.length ? chosen : here.filter((card) => card.id === openCard);
}

/** The same card with ids that nothing in the shot has, those in a bundle and its treatments too. */
function copyOf(card: Card, taken: Set<string>): Card {
  const fresh = (stem: string) => {
    const name = freshName([...taken], `${stem} copy`);
    taken.add(name);
    return name;
  };
  const copy: Card = {
    ...card,
    id: fresh(card.id),
    ...(card.name ? { name: `${card.name} copy` } : {}),
    treatments: (card.treatments ?? []).map((one) => ({ ...one, id: fresh(one.id) })),
  };
  const inner = insideOf(card);
  if (inner.length && card.picture) copy.picture = { ...card.picture, build: inner.map((one) => copyOf(one, taken)) };
  return copy;
}

/** Copies of the meant cards, in front of the frontmost of them. */
export function duplicate(): void {
  const { shot, inside, edit, set } = useSession.getState();
  const cards = meant();
  const here = buildOf(shot, inside);
  const front = cards.at(-1);
  if (!front) return;
  const taken = new Set([...cardsOf(shot).map((one) => one.id), ...treatmentIds(shot)]);
  const before = here[here.indexOf(front) + 1]?.id ?? null;
  const copies = cards.map((card) => copyOf(card, taken));
  edit(
    copies.map((item) => ({ op: "insert", path: buildPath(shot, inside), item, before })),
    `duplicate ${named(cards)}`,
  );
  set({ openCard: copies.at(-1)?.id ?? null, marked: copies.length > 1 ? copies.map((one) => one.id) : [] });
}

/** Switches the meant cards off, or on where all of them are off. */
export function switchOver(): void {
  const { shot, edit } = useSession.getState();
  const cards = meant();
  const off = cards.every((card) => card.enabled === false);
  edit(
    cards.map((card) => ({ op: "set", path: [...pathOf(shot, card.id), "enabled"], value: off ? null : false })),
    `switch ${off ? "on" : "off"} ${named(cards)}`,
  );
}

/** Deletes cards in one step; what looks at their pictures goes with them, and is named beside the way back. */
export async function remove(cards = meant()): Promise<void> {
  const { saved, shot, inside, openCard, edit, set } = useSession.getState();
  if (!saved || !cards.length) return;
  const ids = cards.map((card) => card.id);
  const here = buildOf(shot, inside).map((card) => card.id);
  const last = here.findLastIndex((id) => ids.includes(id));
  const next = here.find((_, at) => at > last) ?? here.findLast((id) => !ids.includes(id)) ?? inside;
  try {
    const found = await answer(
      api.GET("/api/shots/{shot_id}/cards/removal", {
        params: {
          path: { shot_id: saved.id },
          query: { revision: saved.revision, cards: ids },
        },
      }),
    );
    if (!(await edit(found.edits as Edit[], `delete ${named(cards)}`))) return;
    set({ marked: [], openCard: ids.includes(openCard ?? "") ? next : openCard });
    const them = cards.length === 1 ? "it" : "them";
    if (found.with_it.length) toldStep(`Deleted ${named(cards)}, and with ${them} ${listed(found.with_it)}`);
  } catch (error) {
    report(error);
  }
}

/** Makes one bundle of the meant cards, and opens its card. */
export async function gather(): Promise<void> {
  const { saved, edit, set } = useSession.getState();
  const cards = meant();
  if (!saved || !cards.length) return;
  try {
    const query = { revision: saved.revision, cards: cards.map((card) => card.id) };
    const made = await answer(
      api.GET("/api/shots/{shot_id}/cards/gathering", { params: { path: { shot_id: saved.id }, query } }),
    );
    if (await edit(made.edits as Edit[], `bundle ${named(cards)}`)) set({ openCard: made.card ?? null, marked: [] });
  } catch (error) {
    report(error);
  }
}

/** Puts the cards of a bundle in its place; where that would change the picture it is said why. */
export async function dissolve(bundle: Card): Promise<void> {
  const { saved, edit, set, inside } = useSession.getState();
  if (!saved) return;
  try {
    const query = { revision: saved.revision, card: bundle.id };
    const made = await answer(
      api.GET("/api/shots/{shot_id}/cards/dissolving", { params: { path: { shot_id: saved.id }, query } }),
    );
    const front = insideOf(bundle).at(-1)?.id ?? null;
    if (!(await edit(made.edits as Edit[], `dissolve ${shownName(bundle)}`))) return;
    set({ openCard: front, ...(inside === bundle.id ? { inside: bundleOf(saved, bundle.id) } : {}) });
  } catch (error) {
    report(error);
  }
}

/** Gives a card a name, or its id again where it is empty. */
export function rename(card: Card, name: string): void {
  const { shot, edit } = useSession.getState();
  const value = name.trim() && name.trim() !== card.id ? name.trim() : null;
  if (value === (card.name ?? null)) return;
  edit([{ op: "set", path: [...pathOf(shot, card.id), "name"], value }], `call ${shownName(card)} ${value ?? card.id}`);
}

/** Looks at the open card by itself: on grey, then on checks, then at the picture again. */
export function isolate(): void {
  const { shot, openCard, lookingAt, set } = useSession.getState();
  const card = cardsOf(shot).find((one) => one.id === openCard);
  if (!card || card.treat) return;
  const now = lookingAt.kind === "card" && lookingAt.card === card.id ? lookingAt.ground : null;
  const ground = now === null ? "grey" : now === "grey" ? "checks" : null;
  set({ lookingAt: ground ? { kind: "card", card: card.id, ground } : { kind: "picture" }, channel: "colour" });
}

const COPIED = "umbrax copied cards";
type Copied = { origin: number; revision: number; cards: string[] };

/** Remembers the meant cards, for this shot and for others of its show, in other tabs too. */
export function copy(): void {
  const { saved } = useSession.getState();
  const cards = meant();
  if (!saved || !cards.length) return;
  const copied: Copied = { origin: saved.id, revision: saved.revision, cards: cards.map((card) => card.id) };
  localStorage.setItem(COPIED, JSON.stringify(copied));
  told(`Copied ${named(cards)}; Ctrl V puts ${cards.length === 1 ? "it" : "them"} into any shot of the show`);
}

/** Puts the copied cards in front of the open one, with the sources and mattes that they need. */
export async function paste(): Promise<void> {
  const { saved, inside, openCard, edit, set } = useSession.getState();
  const text = localStorage.getItem(COPIED);
  if (!saved || !text) return;
  const copied = JSON.parse(text) as Copied;
  const here = buildOf(saved, inside);
  const at = here.findIndex((card) => card.id === openCard);
  const before = at < 0 ? null : (here[at + 1]?.id ?? null);
  try {
    const made = await answer(
      api.POST("/api/shots/{shot_id}/cards/bringing", {
        params: { path: { shot_id: saved.id } },
        body: {
          revision: saved.revision,
          origin: copied.origin,
          origin_revision: copied.revision,
          cards: copied.cards,
          bundle: inside,
          before,
        },
      }),
    );
    const count = made.cards.length;
    if (!(await edit(made.edits as Edit[], `paste ${count === 1 ? made.cards[0] : `${count} cards`}`))) return;
    set({ openCard: made.cards.at(-1) ?? null, marked: count > 1 ? made.cards : [], openMatte: null });
    if (made.left_out.length) toldStep(`Pasted without ${listed(made.left_out)}`);
  } catch (error) {
    report(error);
  }
}
