import { create } from "zustand";
import { patiently, refusedFrom } from "../api/client";

/** Small pictures are fetched two at a time, so that looks never wait for a connection behind them. */
const AT_ONCE = 2;
const KEPT = 400;

/** How often small pictures that the server told not to keep were to be asked for again. */
export const useAskedAgain = create(() => 0);
export const askThumbsAgain = (): void => useAskedAgain.setState((times) => times + 1);

type Wish = { address: string; give: (url: string) => void; lack: (why: string) => void; dropped: boolean };

const wishes: Wish[] = [];
const known = new Map<string, string>();
let running = 0;

export function knownThumb(address: string): string | undefined {
  return known.get(address);
}

/** Ask for a picture, or why there is none; the answer given back withdraws the wish. */
export function fetchThumb(address: string, give: Wish["give"], lack: Wish["lack"]): () => void {
  const wish = { address, give, lack, dropped: false };
  wishes.push(wish);
  next();
  return () => {
    wish.dropped = true;
  };
}

function next(): void {
  while (running < AT_ONCE) {
    const wish = wishes.shift();
    if (!wish) return;
    if (wish.dropped) continue;
    const already = known.get(wish.address);
    if (already) {
      wish.give(already);
      continue;
    }
    running += 1;
    load(wish).finally(() => {
      running -= 1;
      next();
    });
  }
}

async function load(wish: Wish): Promise<void> {
  try {
    const response = await patiently(wish.address);
    if (!response.ok) {
      const why = refusedFrom(await response.json().catch(() => undefined)).message;
      if (!wish.dropped) wish.lack(why);
      return;
    }
    const url = URL.createObjectURL(await response.blob());
    if (!response.headers.get("Cache-Control")?.includes("no-store")) keep(wish.address, url);
    if (!wish.dropped) wish.give(url);
  } catch {
    // the server is away: the page says so elsewhere, and the next address asks again
  }
}

function keep(address: string, url: string): void {
  known.set(address, url);
  if (known.size <= KEPT) return;
  const [oldest] = known;
  if (!oldest) return;
  known.delete(oldest[0]);
  URL.revokeObjectURL(oldest[1]);
}
