import { toast } from "sonner";
import { create } from "zustand";
import { answer, api, Refused, type Schemas, type ShotState } from "../api/client";
import type { Card, Document, Treatment } from "../api/document";

export type Edit = Schemas["SetValue"] | Schemas["InsertItem"] | Schemas["RemoveItem"] | Schemas["MoveItem"];
export type Channel = "colour" | "red" | "green" | "blue" | "alpha" | "luma";
export type MatteLook = "matte" | "tint" | "cut";
export type LookingAt =
  | { kind: "picture" }
  | { kind: "pass" | "ids"; source: string; name: string }
  | { kind: MatteLook; name: string };

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
  before: boolean;
  playing: boolean;
  busy: boolean;
  overrides: Edit[];
  problem: string | null;
  load: (shotId: number) => Promise<void>;
  follow: () => Promise<void>;
  edit: (edits: Edit[], command: string) => Promise<void>;
  preview: (edits: Edit[]) => void;
  travel: (way: "undo" | "redo", force?: boolean) => Promise<void>;
  touch: (order: { x: number; y: number; radius: number; on: On; action: "grade" | "bloom" }) => Promise<void>;
  accept: (shot: ShotState) => void;
  set: (part: Partial<Session>) => void;
};

export type On = "object" | "material" | "both";

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
      const lost =
        "name" in lookingAt && !("source" in lookingAt) && !(lookingAt.name in (documentOf(shot).mattes ?? {}));
      return {
        lookingAt: lost ? { kind: "picture" } : lookingAt,
        shot,
        overrides: [],
        standing: has(old.standing),
        openCard: has(old.openCard) ?? cards[cards.length - 1]?.id ?? null,
        openTreatment: treatment ? old.openTreatment : null,
        openMatte: old.openMatte && old.openMatte in (documentOf(shot).mattes ?? {}) ? old.openMatte : null,
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
    if (!shot) return;
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
    } catch (error) {
      set({ overrides: [] });
      report(error);
      if (error instanceof Refused && error.code === "conflict") await get().load(shotId);
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
      set({
        openCard: made.card,
        openTreatment: made.treatment,
        openMatte: null,
        lookingAt: { kind: "picture" },
        before: false,
      });
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
