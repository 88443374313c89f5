import { toast } from "sonner";
import { create } from "zustand";
import { answer, api, Refused, type Schemas, type ShotState } from "../api/client";
import type { Card, Document, Treatment } from "../api/document";

export type Edit = Schemas["SetValue"] | Schemas["InsertItem"] | Schemas["RemoveItem"] | Schemas["MoveItem"];
export type Channel = "colour" | "red" | "green" | "blue" | "alpha" | "luma";
export type MatteLook = "matte" | "tint" | "cut" | "edges" | "leaks";
export type LookingAt =
  | { kind: "picture" }
  | { kind: "pass" | "ids"; source: string; name: string }
  | { kind: MatteLook; name: string; at?: [number, number] }
  | { kind: "sum"; names: string[] };
/** A value of a matte that the next click in the picture gives. */
export type Picking = { matte: string; what: "near" | "far" | "colour" } | { matte: null; what: "shape" };
export type Offer = Schemas["OfferData"];
type TouchOrder = {
  x: number;
  y: number;
  radius: number;
  source?: string;
  on?: On;
  offer?: Offer;
  action: "grade" | "bloom" | "matte";
};

type Session = {
  shotId: number;
  shot: ShotState | null;
  frame: number;
  lookingAt: LookingAt;
  channel: Channel;
  exposure: number;
  standing: string | null;
  pinned: [number, number] | null;
  openCard: string | null;
  openTreatment: string | null;
  /** A matte shown in the panel instead of the open card. */
  openMatte: string | null;
  /** Mattes chosen together, for their sum or to be combined or written. */
  chosen: string[];
  picking: Picking | null;
  /** How far down of what lies under the cursor is lit: 0 is what covers most. */
  rank: number;
  before: boolean;
  playing: boolean;
  busy: boolean;
  overrides: Edit[];
  problem: string | null;
  load: (shotId: number) => Promise<void>;
  follow: () => Promise<void>;
  /** One step of one's own; whether it was taken, after telling why where it was not. */
  edit: (edits: Edit[], command: string) => Promise<boolean>;
  preview: (edits: Edit[]) => void;
  travel: (way: "undo" | "redo", force?: boolean) => Promise<void>;
  touch: (order: TouchOrder) => Promise<void>;
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

export const documentOf = (shot: ShotState): Document => shot.document as unknown as Document;
export const cardsOf = (shot: ShotState | null): Card[] => (shot ? (documentOf(shot).build ?? []) : []);
export const shownName = (card: Card): string => card.name ?? card.id;

/** The mattes that a look shows. */
export const mattesOf = (look: LookingAt): string[] =>
  look.kind === "sum" ? look.names : "name" in look && !("source" in look) ? [look.name] : [];

export function treatmentOf(shot: ShotState | null, id: string | null): Treatment | undefined {
  return cardsOf(shot)
    .flatMap((card) => card.treatments ?? [])
    .find((treatment) => treatment.id === id);
}

/** What can be set in the page but belongs to nobody else: kept apart from what the server says. */
export const useSession = create<Session>((set, get) => ({
  shotId: 0,
  shot: null,
  frame: 1,
  lookingAt: { kind: "picture" },
  channel: "colour",
  exposure: 0,
  standing: null,
  pinned: null,
  openCard: null,
  openTreatment: null,
  openMatte: null,
  chosen: [],
  picking: null,
  rank: 0,
  before: false,
  playing: false,
  busy: false,
  overrides: [],
  problem: null,

  set: (part) => set(part),

  accept: (shot) =>
    set((old) => {
      const cards = cardsOf(shot);
      const has = (id: string | null) => (id !== null && cards.some((card) => card.id === id) ? id : null);
      const treatment = treatmentOf(shot, old.openTreatment);
      const { lookingAt } = old;
      const mattes = documentOf(shot).mattes ?? {};
      const looked = mattesOf(lookingAt);
      const lost = looked.some((name) => !(name in mattes));
      return {
        lookingAt: lost ? { kind: "picture" } : lookingAt,
        shot,
        overrides: [],
        standing: has(old.standing),
        openCard: has(old.openCard) ?? cards[cards.length - 1]?.id ?? null,
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
        standing: null,
        pinned: null,
        openCard: null,
        openTreatment: null,
        openMatte: null,
        chosen: [],
        picking: null,
        lookingAt: { kind: "picture" },
        playing: false,
      });
      set({ shotId, frame: documentOf(shot).format.first });
    }
    get().accept(shot);
  },

  follow: async () => {
    const { shotId, shot, busy, overrides } = get();
    if (!shot || busy || overrides.length) return;
    const head = await answer(api.GET("/api/shots/{shot_id}/head", { params: { path: { shot_id: shotId } } }));
    if (head.revision !== get().shot?.revision && !get().busy) await get().load(shotId);
  },

  preview: (edits) => set({ overrides: edits }),

  edit: async (edits, command) => {
    const { shot, shotId, accept } = get();
    if (!shot) return false;
    set({ busy: true, overrides: edits });
    try {
      accept(
        await answer(
          api.POST("/api/shots/{shot_id}/edits", {
            params: { path: { shot_id: shotId } },
            body: { base: shot.revision, edits, command, gesture: crypto.randomUUID(), tab },
          }),
        ),
      );
      return true;
    } catch (error) {
      set({ overrides: [] });
      report(error);
      if (error instanceof Refused && error.code === "conflict") await get().load(shotId);
      return false;
    } finally {
      set({ busy: false });
    }
  },

  travel: async (way, force = false) => {
    const { shotId, accept } = get();
    const address = way === "undo" ? "/api/shots/{shot_id}/undo" : "/api/shots/{shot_id}/redo";
    try {
      accept(await answer(api.POST(address, { params: { path: { shot_id: shotId } }, body: { tab, force } })));
    } catch (error) {
      if (error instanceof Refused && error.code === "other-tab") {
        toast.warning(error.message, { action: { label: "Undo it", onClick: () => get().travel(way, true) } });
      } else if (!(error instanceof Refused && error.code === "nothing")) report(error);
    }
  },

  touch: async (order) => {
    const { shot, shotId, frame, accept } = get();
    if (!shot) return;
    set({ busy: true });
    try {
      const made = await answer(
        api.POST("/api/shots/{shot_id}/touch", {
          params: { path: { shot_id: shotId } },
          body: { ...order, revision: shot.revision, frame, gesture: crypto.randomUUID(), tab },
        }),
      );
      accept(made.shot);
      if (made.treatment)
        set({
          openCard: made.card,
          openTreatment: made.treatment,
          openMatte: null,
          lookingAt: { kind: "picture" },
          before: false,
        });
      else set({ openMatte: made.matte, lookingAt: { kind: "tint", name: made.matte } });
    } catch (error) {
      report(error);
    } finally {
      set({ busy: false });
    }
  },
}));

export function report(error: unknown): void {
  const message = error instanceof Error ? error.message : String(error);
  toast.error(message.charAt(0).toUpperCase() + message.slice(1));
}
