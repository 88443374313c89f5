import { useEffect } from "react";
import { create } from "zustand";
import { answer, api, type ShotState } from "../../api/client";
import { bakesOf, type Matte } from "../../api/document";
import { frameSpan } from "../../controls/time";
import { useSession, useSessionParts } from "../session";
import { documentOf } from "../shotParts";
import { useContents } from "../useContents";

type Area = number | null;
type Known = {
  /** By what a matte is, then by frame: how much of the frame it covers; null where it could not be pulled. */
  areas: Map<string, Map<number, Area>>;
  note: (found: [string, number, Area][]) => void;
};

const useKnown = create<Known>((set) => ({
  areas: new Map(),
  note: (found) =>
    set(({ areas }) => {
      const next = new Map(areas);
      for (const [key, frame, area] of found) next.set(key, new Map(next.get(key)).set(frame, area));
      return { areas: next };
    }),
}));

const REST_MS = 600;
const GAP_MS = 15;
const AGAIN_MS = 20_000;

/** What the areas of a matte depend on: itself, the mattes it is made of, and what the sources are. */
export function keyOf(shot: ShotState, id: string, seen: string[] = []): string {
  const { mattes = {}, sources } = documentOf(shot);
  const {
    name: _name,
    bake: _bake,
    ...matte
  } = (mattes[id] ?? {}) as Matte & { mattes?: (string | { matte: string })[] };
  const parts = (matte.mattes ?? []).map((part) => (typeof part === "string" ? part : part.matte));
  const below = parts.filter((part) => !seen.includes(part)).map((part) => keyOf(shot, part, [...seen, id]));
  const bakes = bakesOf(documentOf(shot));
  const rendered = Object.entries(sources ?? {}).filter(([source]) => !bakes.has(source));
  return JSON.stringify([shot.id, matte, below, rendered]);
}

/** The areas known of a matte, by frame. */
export function useAreas(id: string): Map<number, Area> {
  const shot = useSession((s) => s.shot);
  const areas = useKnown((s) => s.areas);
  return (shot && areas.get(keyOf(shot, id))) || new Map();
}

/** Measures all mattes, the current frame first and then the rest of the shot, while nothing else is going on. */
export function useMeasuring(): void {
  const { shot, frame } = useSessionParts("shot", "frame");
  // whether, and not what: the list of mattes is not drawn anew with every step of a number that is dragged
  const still = useSession((s) => !s.playing && !s.busy && s.overrides.length === 0);
  const missing = useContents()?.missing;
  useEffect(() => {
    if (!shot || !still || !missing) return;
    const stop = new AbortController();
    const wait = setTimeout(() => measure(shot, frame, missing, stop.signal).catch(() => undefined), REST_MS);
    return () => {
      clearTimeout(wait);
      stop.abort();
    };
  }, [shot, frame, still, missing]);
}

/** Again and again, where frames are large that nobody looked at yet: others make them ready, and each time is later than the one before. */
async function measure(shot: ShotState, frame: number, missing: number[], stopped: AbortSignal): Promise<void> {
  for (let wait = AGAIN_MS; ; wait *= 2) {
    const whole = await measureReady(shot, frame, missing, stopped);
    if (whole || stopped.aborted) return;
    await new Promise((done) => setTimeout(done, wait));
    if (stopped.aborted) return;
  }
}

/** Whether all frames could be measured. */
async function measureReady(shot: ShotState, frame: number, missing: number[], stopped: AbortSignal): Promise<boolean> {
  const { format, mattes = {} } = documentOf(shot);
  const ids = Object.keys(mattes);
  const keys = new Map(ids.map((id) => [id, keyOf(shot, id)]));
  const frames = Array.from({ length: format.last - format.first + 1 }, (_, index) => format.first + index);
  const { note } = useKnown.getState();
  note(missing.flatMap((at) => ids.map((id): [string, number, Area] => [keys.get(id) ?? "", at, null])));
  frames.sort((a, b) => Math.abs(a - frame) - Math.abs(b - frame));
  let whole = true;
  for (const at of frames) {
    const known = useKnown.getState().areas;
    const names = ids.filter((id) => !known.get(keys.get(id) ?? "")?.has(at));
    if (!names.length) continue;
    const told = await answer(
      api.GET("/api/shots/{shot_id}/areas", {
        params: {
          path: { shot_id: shot.id },
          query: { revision: shot.revision, frame: at, names, by_the_way: at !== frame },
        },
        signal: stopped,
      }),
    );
    if (!Object.keys(told.areas).length) whole = false;
    note(Object.entries(told.areas).map(([id, area]) => [keys.get(id) ?? "", at, area]));
    await new Promise((done) => setTimeout(done, GAP_MS));
    if (stopped.aborted) break;
  }
  return whole;
}

export const LEAST = 1e-6;

/** The frames on which there is anything, as runs: `1001–1012, 1030`. */
export function runsOf(areas: Map<number, Area>): string {
  const there = [...areas].filter(([, area]) => area !== null && area > LEAST).map(([frame]) => frame);
  there.sort((a, b) => a - b);
  const runs: [number, number][] = [];
  for (const frame of there) {
    const last = runs[runs.length - 1];
    if (last && frame === last[1] + 1) last[1] = frame;
    else runs.push([frame, frame]);
  }
  return runs.map(([from, to]) => frameSpan(from, to)).join(", ");
}

/** An area as it is told: more digits for small ones. */
export const told = (area: number): string => {
  const percent = area * 100;
  return percent === 0 ? "0 %" : percent < 0.01 ? "< 0.01 %" : `${percent.toFixed(percent < 1 ? 2 : 1)} %`;
};
