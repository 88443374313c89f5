import { useCallback, useState } from "react";
import type { UnderCursor } from "../../api/client";
import { onStage, type Placing, type Size } from "./placing";
import { askUnder, type Lit, reachFor, type Under } from "./useUnder";

type Point = [number, number];
type Touching = { under: UnderCursor; at: Point; left: number; top: number };

const MENU: Size = { width: 312, height: 340 };
const GAP = 12;

/** What was touched, and where its menu stands on a stage of this size: beside what is lit, never over it where there is room. */
export function useTouching(stage: Size, placing: Placing) {
  const [touching, setTouching] = useState<Touching | null>(null);
  /** A quick hand clicks before what is under the cursor has been told. */
  const open = async (found: Under, at: Point, screen: Point) => {
    const told = found.at?.[0] === at[0] && found.at[1] === at[1];
    const under = told ? found.under : (await askUnder(at, reachFor(placing.zoom)).catch(() => null))?.under;
    if (!under?.source) return;
    setTouching({ under, at, ...besides(stage, screen, told && found.lit ? boxOf(found.lit, placing) : null) });
  };
  const close = useCallback(() => setTouching(null), []);
  return { touching, open, close };
}

type Box = { x0: number; y0: number; x1: number; y1: number };

function boxOf({ bitmap, x, y }: Lit, placing: Placing): Box {
  const [[x0, y0], [x1, y1]] = [onStage(placing, [x, y]), onStage(placing, [x + bitmap.width, y + bitmap.height])];
  return { x0, y0, x1, y1 };
}

/** Right of it, left of it, below it; a thing as large as the stage leaves the side that was not touched. */
function besides(stage: Size, [x, y]: Point, box: Box | null): { left: number; top: number } {
  const within = (at: number, most: number) => Math.max(4, Math.min(at, most));
  const top = within(y - 40, stage.height - MENU.height);
  const { x0, y1, x1 } = box ?? { x0: x, y1: y, x1: x };
  if (x1 + GAP + MENU.width <= stage.width) return { left: x1 + GAP, top };
  if (x0 - GAP - MENU.width >= 0) return { left: x0 - GAP - MENU.width, top };
  if (y1 + GAP + MENU.height <= stage.height)
    return { left: within(x - MENU.width / 2, stage.width - MENU.width), top: y1 + GAP };
  return { left: x > stage.width / 2 ? 4 : stage.width - MENU.width - 4, top };
}
