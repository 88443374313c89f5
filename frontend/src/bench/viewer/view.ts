import { create } from "zustand";
import { useShallow } from "zustand/react/shallow";
import { centred, type Frame, fitted, type Placing, type Size, zoomedAt } from "./placing";

type View = {
  stage: Size;
  picture: Frame;
  /** Whether pixels are shown square, whatever shape the shot says they have. */
  square: boolean;
  /** Where the picture was put by hand; null while it fits the stage. */
  free: Placing | null;
  /** Where it was before edges were looked at pixel by pixel, to be given back. */
  kept: { before: Placing | null; put: Placing } | null;
  /** The picture's pixel under the cursor, or under the keys. */
  under: [number, number] | null;
  fit: () => void;
  oneToOne: () => void;
  zoom: (by: number) => void;
  keep: () => void;
  giveBack: () => void;
};

/** How the picture lies on the stage: set by hand, by keys and by looks. */
export const useView = create<View>((set, get) => ({
  stage: { width: 0, height: 0 },
  picture: { width: 16, height: 9, wide: 1 },
  square: false,
  free: null,
  kept: null,
  under: null,
  fit: () => set({ free: null }),
  oneToOne: () => set(({ stage, picture }) => ({ free: centred(stage, picture, 1 / window.devicePixelRatio) })),
  zoom: (by) =>
    set(({ free, stage, picture }) => ({
      free: zoomedAt(free ?? fitted(stage, picture), by, stage.width / 2, stage.height / 2),
    })),
  keep: () => {
    const before = get().free;
    get().oneToOne();
    set({ kept: { before, put: get().free as Placing } });
  },
  giveBack: () => set(({ kept, free }) => ({ kept: null, free: kept && free === kept.put ? kept.before : free })),
}));

/** Where the picture lies: its size, the stage's, and how it was put. */
export const useLying = () => useView(useShallow(({ stage, picture, free }) => ({ stage, picture, free })));
