import { useCallback, useState } from "react";
import type { UnderCursor } from "../../api/client";
import type { Size } from "./placing";
import { askUnder, reachFor, type Under } from "./useUnder";

type Point = [number, number];
type Touching = { under: UnderCursor; at: Point; left: number; top: number };

const MENU: Size = { width: 272, height: 340 };

/** What was touched, and where its menu stands on a stage of this size. */
export function useTouching(stage: Size) {
  const [touching, setTouching] = useState<Touching | null>(null);
  /** A quick hand clicks before what is under the cursor has been told. */
  const open = async (found: Under, zoom: number, at: Point, [x, y]: Point) => {
    const told = found.at?.[0] === at[0] && found.at[1] === at[1];
    const under = told ? found.under : (await askUnder(at, reachFor(zoom)).catch(() => null))?.under;
    if (!under?.source) return;
    const left = Math.max(4, Math.min(x + 14, stage.width - MENU.width));
    const top = Math.max(4, Math.min(y + 10, stage.height - MENU.height));
    setTouching({ under, at, left, top });
  };
  const close = useCallback(() => setTouching(null), []);
  return { touching, open, close };
}
