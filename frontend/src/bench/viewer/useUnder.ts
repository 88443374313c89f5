import { useEffect, useRef, useState } from "react";
import { answer, api, type Probe, patiently, type ShotState, type UnderCursor } from "../../api/client";
import type { Offer } from "../session";
import { useSession } from "../session";
import type { LookingAt } from "../shotParts";

/** The light over an object and where it lies in the picture. */
export type Lit = { bitmap: ImageBitmap; x: number; y: number };
export type Under = { at: [number, number] | null; under: UnderCursor | null; probe: Probe | null; lit: Lit | null };

const NOTHING: Under = { at: null, under: null, probe: null, lit: null };
const REACH_ON_SCREEN = 6;

export const reachFor = (zoom: number): number => Math.min(48, Math.ceil(REACH_ON_SCREEN / zoom));

/** What lies under the cursor: its object lit by its own matte, and true values; asked one at a time. */
export function useUnder(at: [number, number] | null, zoom: number, hold: boolean): Under {
  const [under, setUnder] = useState<Under>(NOTHING);
  const wanted = useRef<{ at: [number, number]; zoom: number } | null>(null);
  const running = useRef(false);
  const light = useRef<Light>({ key: "", lit: null });
  const here = useRef(at);
  here.current = at;
  const shot = useSession((s) => s.shot);
  const frame = useSession((s) => s.frame);
  const looking = useSession((s) => s.lookingAt);
  const rank = useSession((s) => s.rank);

  // biome-ignore lint/correctness/useExhaustiveDependencies: asked anew when anything changes that the answer depends on
  useEffect(() => {
    if (hold) return;
    wanted.current = at && shot ? { at, zoom } : null;
    if (!wanted.current) {
      if (!at) setUnder(NOTHING);
      return;
    }
    const run = async () => {
      if (running.current) return;
      running.current = true;
      try {
        while (wanted.current) {
          const now = wanted.current;
          wanted.current = null;
          const told = await ask(now.at, now.zoom, light.current);
          // the cursor may have left meanwhile
          setUnder(here.current ? told : NOTHING);
        }
      } catch {
        setUnder(NOTHING);
      } finally {
        running.current = false;
      }
    };
    run();
  }, [at?.[0], at?.[1], zoom, hold, shot?.revision, frame, looking, rank]);

  return under;
}

type Light = { key: string; lit: Lit | null };

/** The source and pass that a look shows by itself: it answers whether a card shows it or not. */
export const placeOf = (look: LookingAt): { source?: string; name?: string } =>
  look.kind === "pass" || look.kind === "ids" ? { source: look.source, name: look.name } : {};

/** What answers at a pixel, and the values there of what is looked at. */
export async function askUnder([x, y]: [number, number], radius: number) {
  const { shot, frame, lookingAt, standing, exposure } = useSession.getState();
  if (!shot) return { under: null, probe: null };
  const where = { revision: shot.revision, frame, x, y };
  const path = { shot_id: shot.id };
  const query = { ...where, radius, ...placeOf(lookingAt) };
  const [under, probe] = await Promise.all([
    answer(api.GET("/api/shots/{shot_id}/under", { params: { path, query } })),
    answer(
      api.POST("/api/shots/{shot_id}/probe", {
        params: { path },
        body: { ...where, ...probed(lookingAt, standing), radius: 4, exposure },
      }),
    ),
  ]);
  return { under, probe };
}

/** What would be taken by a click: the first offer, or one that lies behind it. */
export const offerAt = (under: UnderCursor | null, rank: number): Offer | undefined => {
  const offers = under?.offers ?? [];
  return offers[rank % Math.max(1, offers.length)];
};

async function ask(at: [number, number], zoom: number, light: Light): Promise<Under> {
  const { under, probe } = await askUnder(at, reachFor(zoom));
  const { shot, frame, rank } = useSession.getState();
  if (!shot || !under) return NOTHING;
  const offer = offerAt(under, rank);
  const key = offer ? `${shot.id} ${frame} ${JSON.stringify(offer.parts)}` : "";
  if (key !== light.key) {
    light.key = key;
    light.lit = offer ? await fetchLit(shot, frame, offer) : null;
  }
  return { at, under, probe, lit: light.lit };
}

async function fetchLit(shot: ShotState, frame: number, offer: Offer): Promise<Lit | null> {
  const parts = JSON.stringify(offer.parts);
  const query = new URLSearchParams({ revision: String(shot.revision), frame: String(frame), parts });
  const response = await patiently(`/api/shots/${shot.id}/lit?${query}`);
  if (response.status !== 200) return null;
  const [x = 0, y = 0] = (response.headers.get("X-Window") ?? "").split(",").map(Number);
  return { bitmap: await createImageBitmap(await response.blob()), x, y };
}

function probed(lookingAt: LookingAt, standing: string | null) {
  if (lookingAt.kind === "pass" || lookingAt.kind === "ids") return lookingAt;
  const alone = lookingAt.kind === "matte" || lookingAt.kind === "edges" || lookingAt.kind === "leaks";
  return alone ? { kind: "matte" as const, name: lookingAt.name } : { kind: "picture" as const, card: standing };
}
