import { create } from "zustand";

/** Frames of the picture that is played, kept as bitmaps under the address they came from. */
type Ready = { base: string; frames: Map<number, ImageBitmap>; version: number };

export const useReady = create<Ready>(() => ({ base: "", frames: new Map(), version: 0 }));

const MOST = 240;

/** Fetch frames in order of need until told to stop; two at a time. */
export function prefetch(base: string, frames: number[], address: (frame: number) => string): () => void {
  if (useReady.getState().base !== base) useReady.setState({ base, frames: new Map(), version: 0 });
  const controller = new AbortController();
  const left = frames.filter((frame) => !useReady.getState().frames.has(frame)).slice(0, MOST);
  const one = async () => {
    for (let frame = left.shift(); frame !== undefined; frame = left.shift()) {
      try {
        const response = await fetch(address(frame), { signal: controller.signal });
        if (!response.ok) continue;
        const bitmap = await createImageBitmap(await response.blob());
        const ready = useReady.getState();
        if (controller.signal.aborted || ready.base !== base) return;
        ready.frames.set(frame, bitmap);
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
