import { create } from "zustand";

export type TileSize = "small" | "middle" | "large";
const KEPT = "umbrax tile size";

const isSize = (text: string | null): text is TileSize => text === "small" || text === "middle" || text === "large";

function remembered(): TileSize {
  const kept = localStorage.getItem(KEPT);
  return isSize(kept) ? kept : "middle";
}

/** How large the pictures of shots are: kept in this browser. */
export const useTileSize = create<{ size: TileSize; setSize: (size: TileSize) => void }>((set) => ({
  size: remembered(),
  setSize: (size) => {
    localStorage.setItem(KEPT, size);
    set({ size });
  },
}));

export const GRIDS: Record<TileSize, string> = {
  small: "grid-cols-[repeat(auto-fill,minmax(148px,1fr))] gap-2",
  middle: "grid-cols-[repeat(auto-fill,minmax(192px,1fr))] gap-2.5",
  large: "grid-cols-[repeat(auto-fill,minmax(430px,1fr))] gap-4",
};
export const SCALES: Record<TileSize, 2 | 4> = { small: 4, middle: 4, large: 2 };
