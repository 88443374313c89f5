import { patiently, refusedFrom, type Schemas } from "../../api/client";
import type { Channel, Ground, LookingAt } from "../shotParts";

export type Scale = 1 | 2 | 4 | 8;
export type LookOrder = Partial<Schemas["LookOrder"]> & { revision: number; frame: number };
export type Rect = [number, number, number, number];
export type Looked = { bitmap: ImageBitmap; window: Rect; scale: Scale; problem: string | null };

type Thumb = {
  kind: LookingAt["kind"];
  revision: number;
  frame: number;
  scale?: Scale;
  card?: string;
  source?: string;
  name?: string;
  at?: [number, number];
  without?: string;
  ground?: Ground;
  channel?: Channel;
  exposure?: number;
  low?: number;
  high?: number;
  priority?: "thumbnail" | "prefetch";
};

/** The address of a whole small picture; it never changes its meaning. */
export function thumbAddress(shotId: number, thumb: Thumb): string {
  const query = new URLSearchParams();
  for (const [key, value] of Object.entries(thumb))
    for (const one of Array.isArray(value) ? value : [value]) if (one !== undefined) query.append(key, String(one));
  return `/api/shots/${shotId}/thumb?${query}`;
}

/** One look at the picture; null where the server says that a newer one overtook it. */
export async function look(shotId: number, order: LookOrder, signal?: AbortSignal): Promise<Looked | null> {
  const response = await patiently(`/api/shots/${shotId}/look`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(order),
    signal,
  });
  if (response.status === 204) return null;
  if (!response.ok) throw refusedFrom(await response.json().catch(() => undefined));
  return looked(response);
}

export async function looked(response: Response): Promise<Looked> {
  const bitmap = await createImageBitmap(await response.blob());
  const window = (response.headers.get("X-Window") ?? "0,0,0,0").split(",").map(Number) as Rect;
  const scale = Number(response.headers.get("X-Scale") ?? "1") as Scale;
  return { bitmap, window, scale, problem: response.headers.get("X-Problem") };
}

/** The coarsest scale that still fills the screen's pixels. */
export function scaleFor(zoom: number): Scale {
  const pixels = zoom * window.devicePixelRatio;
  return ([8, 4, 2] as const).find((n) => 1 / n >= pixels) ?? 1;
}
