import type { StoreApi } from "zustand";
import type { Session } from "./session";

/** Calls once the shot is changed by anything else, or another one is opened. */
export function onceChanged(session: Pick<StoreApi<Session>, "getState" | "subscribe">, call: () => void): void {
  const { shotId, saved } = session.getState();
  const stop = session.subscribe((now) => {
    if (now.shotId === shotId && now.saved?.revision === saved?.revision && !now.pending.length) return;
    stop();
    call();
  });
}
