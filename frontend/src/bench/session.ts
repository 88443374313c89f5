import { toast } from "sonner";
import { create } from "zustand";
import { useShallow } from "zustand/react/shallow";
import { answer, api, Refused, type Schemas, type ShotState } from "../api/client";
import { asCommand } from "../api/command";
import { report, STAYS } from "../controls/notices";
import { type Edit, withEdits } from "./edits";
import { onceChanged } from "./onceChanged";
import {
  type Against,
  type Channel,
  canFocus,
  cardsOf,
  documentOf,
  insideOf,
  type LookingAt,
  matteName,
  mattesOf,
  treatmentOf,
} from "./shotParts";
import { isPair, letGo } from "./viewer/ways";

export type { Edit } from "./edits";
/** A value of a matte that the next click in the picture gives. */
export type Picking =
  | { matte: string; what: "near" | "far" | "colour" }
  | { matte: null; what: "shape" }
  | { matte: null; what: "spot"; words: string; take: (at: [number, number]) => void };
export type Offer = Schemas["OfferData"];
type TouchOrder = {
  x: number;
  y: number;
  radius: number;
  source?: string;
  on?: On;
  offer?: Offer;
  /** matte, tuck, or the kind of a treatment. */
  action: string;
  tucked?: string;
};
/** Edits that were made here and that the server has not answered yet. */
type Pending = { edits: Edit[]; command: string; gesture: string };

export type Session = {
  shotId: number;
  /** The shot as it is shown: as the server had it last, with what is pending on top. */
  shot: ShotState | null;
  saved: ShotState | null;
  pending: Pending[];
  previewed: Edit[];
  frame: number;
  lookingAt: LookingAt;
  channel: Channel;
  exposure: number;
  standing: string | null;
  pinned: [number, number] | null;
  /** Where the picture was touched last: what has a size is shown from there. */
  spot: [number, number] | null;
  openCard: string | null;
  openTreatment: string | null;
  /** The bundle whose inside the build line shows. */
  inside: string | null;
  /** Cards chosen together, to be gathered, switched, copied or deleted as one. */
  marked: string[];
  /** The open card's handles are in the picture. */
  handles: boolean;
  /** What is shown in the place of the card: what people say of the shot, or its steps. */
  aside: "comments" | "history" | null;
  openComment: number | null;
  /** What the next comment is about; a point is one of the frame that is looked at. */
  saying: { about: "shot" | "frame" | "point"; point: Schemas["PointData"] | null };
  /** Scopes are shown: of a matte, if one is looked at, else of all that is seen. */
  scopes: boolean;
  /** A matte shown in the panel instead of the open card. */
  openMatte: string | null;
  /** Mattes chosen together, for their sum or to be combined or written. */
  chosen: string[];
  picking: Picking | null;
  /** How far down of what lies under the cursor is lit: 0 is what covers most. */
  rank: number;
  /** What the picture is compared with. */
  against: Against;
  /** That is shown in the place of the picture. */
  before: boolean;
  /** How far from the left it is shown beside the picture, 0 to 1; null where it is not wiped. */
  wipe: number | null;
  /** How far both are apart is shown. */
  apart: boolean;
  playing: boolean;
  busy: boolean;
  /** Edits that looks are asked with: those that are pending, and those that are only tried. */
  overrides: Edit[];
  problem: string | null;
  load: (shotId: number) => Promise<void>;
  follow: () => Promise<void>;
  /** One step of one's own; whether it was taken, after telling why where it was not. Several wait for one another. */
  edit: (edits: Edit[], command: string) => Promise<boolean>;
  preview: (edits: Edit[]) => void;
  travel: (way: "undo" | "redo", force?: boolean) => Promise<void>;
  /** Makes a matte, and a treatment through it; the id of the matte where it was made. */
  touch: (order: TouchOrder) => Promise<string | null>;
  accept: (shot: ShotState) => void;
  set: (part: Partial<Session>) => void;
};

export type On = "object" | "material" | "asset" | "both";

function tabName(): string {
  const known = sessionStorage.getItem("umbrax tab");
  const name = known ?? crypto.randomUUID();
  sessionStorage.setItem("umbrax tab", name);
  return name;
}

export const tab = tabName();

/** The same of the shot that is open, for words about what is done. */
export const nameOfMatte = (id: string): string => matteName(useSession.getState().shot, id);

/** What is looked at and open when a shot is opened. */
const FRESH = {
  standing: null,
  pinned: null,
  spot: null,
  openCard: null,
  openTreatment: null,
  inside: null,
  marked: [],
  handles: false,
  openMatte: null,
  chosen: [],
  picking: null,
  openComment: null,
  saying: { about: "frame", point: null },
  lookingAt: { kind: "picture" },
  against: "treatment",
  before: false,
  wipe: null,
  apart: false,
  playing: false,
  problem: null,
} satisfies Partial<Session>;

/** What is sent goes one after the other: each is made on what the one before it left. */
let line: Promise<unknown> = Promise.resolve();

export function inLine<T>(act: () => Promise<T>): Promise<T> {
  const done = line.then(act);
  line = done.catch(() => undefined);
  return done;
}

/** Whether somebody may only look, which is said where they wanted more. */
function looksOnly(shot: ShotState): boolean {
  if (shot.role === "look")
    report(new Error(`in ${shot.show} you may look, but not change anything; ask one of its owners`));
  return shot.role === "look";
}

/** What can be set in the page but belongs to nobody else: kept apart from what the server says. */
export const useSession = create<Session>((set, get, store) => {
  /** The parts that follow from what is saved, pending and tried. */
  const shown = (saved: ShotState | null, pending: Pending[], previewed: Edit[]) => {
    const edits = pending.flatMap((one) => one.edits);
    const shot = saved && edits.length ? { ...saved, document: withEdits(saved.document, edits) } : saved;
    return { saved, pending, previewed, shot, busy: pending.length > 0, overrides: [...edits, ...previewed] };
  };
  /** What is changed is seen: two revisions that were compared with one another are let go. */
  const changing = ({ against }: Session): Partial<Session> => (isPair(against) ? letGo(against) : {});
  return {
    shotId: 0,
    shot: null,
    saved: null,
    pending: [],
    previewed: [],
    ...FRESH,
    frame: 1,
    channel: "colour",
    exposure: 0,
    rank: 0,
    scopes: false,
    aside: null,
    busy: false,
    overrides: [],

    // a card or a matte that is opened takes the place of what is said, and of what was done
    set: (part) => set(part.openCard || part.openMatte ? { aside: null, ...part } : part),

    accept: (saved) =>
      set((old) => {
        const next = shown(saved, old.pending, old.previewed);
        const shot = next.shot as ShotState;
        const cards = cardsOf(shot);
        const has = (id: string | null) => (id !== null && cards.some((card) => card.id === id) ? id : null);
        const treatment = treatmentOf(shot, old.openTreatment);
        const { lookingAt } = old;
        const mattes = documentOf(shot).mattes ?? {};
        const looked = mattesOf(lookingAt);
        const lost =
          looked.some((name) => !(name in mattes)) ||
          ("source" in lookingAt && !(lookingAt.source in (documentOf(shot).sources ?? {}))) ||
          (lookingAt.kind === "laid" && !treatmentOf(shot, lookingAt.name)) ||
          (lookingAt.kind === "focus" && !canFocus(cards.find((card) => card.id === lookingAt.card)));
        const { first, last } = documentOf(shot).format;
        return {
          ...next,
          lookingAt: lost ? { kind: "picture" } : lookingAt,
          frame: Math.min(last, Math.max(first, old.frame)),
          standing: has(old.standing),
          inside: insideOf(cards.find((card) => card.id === old.inside)).length ? old.inside : null,
          marked: old.marked.filter((id) => has(id) !== null),
          openCard: has(old.openCard) ?? documentOf(shot).build?.at(-1)?.id ?? null,
          openTreatment: treatment ? old.openTreatment : null,
          openMatte: old.openMatte && old.openMatte in mattes ? old.openMatte : null,
          chosen: old.chosen.filter((name) => name in mattes),
          picking: old.picking?.matte && !(old.picking.matte in mattes) ? null : old.picking,
        };
      }),

    load: async (shotId) => {
      const shot = await answer(api.GET("/api/shots/{shot_id}", { params: { path: { shot_id: shotId } } }));
      if (get().shotId !== shotId) {
        set({
          ...shown(null, [], []),
          ...FRESH,
          shotId,
          frame: documentOf(shot).format.first,
        });
      }
      get().accept(shot);
    },

    follow: async () => {
      const { shotId, saved, busy, overrides } = get();
      if (!saved || busy || overrides.length) return;
      const head = await answer(api.GET("/api/shots/{shot_id}/head", { params: { path: { shot_id: shotId } } }));
      if (head.revision !== get().saved?.revision && !get().busy) await get().load(shotId);
    },

    preview: (previewed) => {
      if (get().saved?.role !== "look")
        set((old) => ({ ...shown(old.saved, old.pending, previewed), ...changing(old) }));
    },

    edit: (edits, told) => {
      const { saved, shotId } = get();
      if (!saved || looksOnly(saved)) return Promise.resolve(false);
      const command = asCommand(told);
      const mine: Pending = { edits, command, gesture: crypto.randomUUID() };
      set((old) => ({ ...shown(old.saved, [...old.pending, mine], []), ...changing(old) }));
      return inLine(async () => {
        const now = get();
        // a step before it was refused, and this one was made on it; or the shot was left
        if (!now.pending.includes(mine) || now.shotId !== shotId || !now.saved) return false;
        try {
          const body = { base: now.saved.revision, edits, command, gesture: mine.gesture, tab };
          const shot = await answer(
            api.POST("/api/shots/{shot_id}/edits", { params: { path: { shot_id: shotId } }, body }),
          );
          set((old) => ({ pending: old.pending.filter((one) => one !== mine) }));
          get().accept(shot);
          return true;
        } catch (error) {
          const after = get().pending.length - 1;
          set((old) => shown(old.saved, [], []));
          report(error);
          if (after > 0) report(new Error(`the ${after === 1 ? "step" : `${after} steps`} after it went with it`));
          if (error instanceof Refused && error.code === "conflict") await get().load(shotId);
          return false;
        }
      });
    },

    travel: (way, force = false) =>
      inLine(async () => {
        const { shotId, accept } = get();
        set(changing(get()));
        const address = way === "undo" ? "/api/shots/{shot_id}/undo" : "/api/shots/{shot_id}/redo";
        try {
          accept(await answer(api.POST(address, { params: { path: { shot_id: shotId } }, body: { tab, force } })));
        } catch (error) {
          if (error instanceof Refused && error.code === "other-tab") {
            await get().load(shotId); // what is asked about is what is seen
            const action = { label: "Undo it", onClick: () => get().travel(way, true) };
            const notice = toast.warning(error.message, { id: error.message, ...STAYS, action });
            onceChanged(store, () => toast.dismiss(notice));
          } else if (!(error instanceof Refused && error.code === "nothing")) report(error);
        }
      }),

    touch: (order) =>
      inLine(async () => {
        const { saved, shotId, frame, accept } = get();
        if (!saved || looksOnly(saved)) return null;
        set({ busy: true, spot: [order.x, order.y] });
        try {
          const made = await answer(
            api.POST("/api/shots/{shot_id}/touch", {
              params: { path: { shot_id: shotId } },
              body: { ...order, revision: saved.revision, frame, gesture: crypto.randomUUID(), tab },
            }),
          );
          accept(made.shot);
          // a treatment, or a card that was sent behind something, is what is looked at next; else the new matte
          if (made.card)
            set({
              aside: null,
              openCard: made.card,
              openTreatment: made.treatment,
              openMatte: null,
              lookingAt: { kind: "picture" },
              before: false,
            });
          else if (made.matte)
            set({ aside: null, openMatte: made.matte, lookingAt: { kind: "tint", name: made.matte } });
          return made.matte ?? null;
        } catch (error) {
          report(error);
          return null;
        } finally {
          set((old) => ({ busy: old.pending.length > 0 }));
        }
      }),
  };
});

/** Some parts of the session; drawn again only when one of these changes. */
export function useSessionParts<Key extends keyof Session>(...keys: Key[]): Pick<Session, Key> {
  return useSession(
    useShallow((session) => {
      const parts = {} as Pick<Session, Key>;
      for (const key of keys) parts[key] = session[key];
      return parts;
    }),
  );
}
