import { useEffect, useRef, useState } from "react";
import { answer, api, type Probe, type UnderCursor } from "../../api/client";
import type { LookingAt } from "../session";
import { useSession } from "../session";

export type Under = { under: UnderCursor | null; probe: Probe | null; lit: ImageBitmap | null };

const NOTHING: Under = { under: null, probe: null, lit: null };
const REACH_ON_SCREEN = 6;

export const reachFor = (zoom: number): number => Math.min(48, Math.ceil(REACH_ON_SCREEN / zoom));

/** What lies under the cursor: its object lit by its own matte, and true values; asked one at a time. */
export function useUnder(at: [number, number] | null, zoom: number, hold: boolean): Under {
  const [under, setUnder] = useState<Under>(NOTHING);
  const wanted = useRef<{ at: [number, number]; zoom: number } | null>(null);
  const running = useRef(false);
  const light = useRef<{ key: string; bitmap: ImageBitmap | null }>({ key: "", bitmap: null });
  const shot = useSession((s) => s.shot);
  const frame = useSession((s) => s.frame);

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
          setUnder(await ask(now.at, now.zoom, light.current));
        }
      } catch {
        setUnder(NOTHING);
      } finally {
        running.current = false;
      }
    };
    run();
  }, [at?.[0], at?.[1], zoom, hold, shot?.revision, frame]);

  return under;
}

async function ask(
  [x, y]: [number, number],
  zoom: number,
  light: { key: string; bitmap: ImageBitmap | null },
): Promise<Under> {
  const { shot, frame, lookingAt, standing, exposure } = useSession.getState();
  if (!shot) return NOTHING;
  const where = { revision: shot.revision, frame, x, y };
  const path = { shot_id: shot.id };
  const [under, probe] = await Promise.all([
    answer(api.GET("/api/shots/{shot_id}/under", { params: { path, query: { ...where, radius: reachFor(zoom) } } })),
    answer(
      api.POST("/api/shots/{shot_id}/probe", {
        params: { path },
        body: { ...where, ...probed(lookingAt, standing), radius: 4, exposure },
      }),
    ),
  ]);
  const lit = under.object ?? under.material;
  const key = lit && under.source ? `${shot.id} ${frame} ${under.source} ${lit.layer} ${lit.id}` : "";
  if (key !== light.key) {
    light.key = key;
    light.bitmap = null;
    if (lit && under.source) {
      const query = new URLSearchParams({
        revision: String(shot.revision),
        frame: String(frame),
        source: under.source,
        layer: lit.layer,
        id: lit.id,
      });
      const response = await fetch(`/api/shots/${shot.id}/lit?${query}`);
      if (response.ok) light.bitmap = await createImageBitmap(await response.blob());
    }
  }
  return { under, probe, lit: light.bitmap };
}

function probed(lookingAt: LookingAt, standing: string | null) {
  if (lookingAt.kind === "pass" || lookingAt.kind === "ids") return lookingAt;
  return lookingAt.kind === "matte" ? lookingAt : { kind: "picture" as const, card: standing };
}
