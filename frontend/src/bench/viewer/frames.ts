import { create } from "zustand";
import { patiently } from "../../api/client";

/** Frames of the picture that is played, kept as bitmaps under the address they came from. */
type Ready = { base: string; frames: Map<number, ImageBitmap>; version: number };

export const useReady = create<Ready>(() => ({ base: "", frames: new Map(), version: 0 }));

const MOST = 240;
const LOOK_AGAIN_MS = 40;

function empty(base: string): void {
  for (const bitmap of useReady.getState().frames.values()) bitmap.close();
  useReady.setState({ base, frames: new Map(), version: 0 });
}

/** Lets frames go that were played longest ago: those just behind the one that is shown come last in the order of need. */
function letGo(order: number[], frames: Map<number, ImageBitmap>): void {
  for (let at = order.length - 1; at >= 0 && frames.size > MOST; at--) {
    const frame = order[at] as number;
    frames.get(frame)?.close();
    frames.delete(frame);
  }
}

/**
 * Fetch frames ahead of the one that is shown until told to stop, two at a time. All of a long shot does not stay: what was
 * played makes room for what comes.
 */
export function prefetch(
  base: string,
  shown: () => number,
  first: number,
  last: number,
  address: (frame: number) => string,
): () => void {
  if (useReady.getState().base !== base) empty(base);
  const controller = new AbortController();
  const count = last - first + 1;
  const asked = new Set<number>();
  /** The frames that are needed next, from the shown one on and round again. */
  const order = (most: number) => {
    const from = shown() - first;
    return Array.from({ length: Math.min(most, count) }, (_, at) => first + ((from + at) % count));
  };
  const one = async () => {
    while (!controller.signal.aborted) {
      const { frames } = useReady.getState();
      const frame = order(MOST).find((at) => !frames.has(at) && !asked.has(at));
      if (frame === undefined) {
        if (count <= MOST && frames.size >= count) return;
        await new Promise((done) => setTimeout(done, LOOK_AGAIN_MS));
        continue;
      }
      asked.add(frame);
      try {
        const response = await patiently(address(frame), { signal: controller.signal });
        if (!response.ok) continue;
        const bitmap = await createImageBitmap(await response.blob());
        const ready = useReady.getState();
        if (controller.signal.aborted || ready.base !== base) {
          bitmap.close();
          return;
        }
        ready.frames.set(frame, bitmap);
        letGo(order(count), ready.frames);
        asked.delete(frame);
        useReady.setState({ version: ready.version + 1 });
      } catch {
        if (controller.signal.aborted) return;
      }
    }
  };
  one();
  one();
  return () => controller.abort();
}
