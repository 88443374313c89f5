import { useEffect, useRef } from "react";
import { create } from "zustand";
import type { Brought } from "./uploading";

/** What becomes of files that are dropped while a page or a dialog is there; the newest one has them. */
export type DropTarget = { text: string; bring: (files: Brought[], onto: Element | null) => void };

type Dropping = { targets: DropTarget[]; over: boolean };

export const useDropping = create<Dropping>(() => ({ targets: [], over: false }));

/** Takes what is dropped anywhere while this is mounted; `text` tells what will be done with it. */
export function useDropHere(text: string, bring: DropTarget["bring"]): void {
  const newest = useRef(bring);
  newest.current = bring;
  useEffect(() => {
    const target: DropTarget = { text, bring: (files, onto) => newest.current(files, onto) };
    useDropping.setState(({ targets }) => ({ targets: [...targets, target] }));
    return () => useDropping.setState(({ targets }) => ({ targets: targets.filter((one) => one !== target) }));
  }, [text]);
}
