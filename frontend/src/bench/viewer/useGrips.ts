import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import { type Edit, useSessionParts } from "../session";
import { type Placing, unstretched } from "./placing";
import { type Point, WAYS } from "./placingMath";

/** Parts of the picture that are dragged, or moved by the arrow keys: what is dragged shows, and is one step when it is let go. */
export function useGrips(placing: Placing) {
  const { edit, preview } = useSessionParts("edit", "preview");
  const held = useRef<{ x: number; y: number; edits: Edit[] } | null>(null);
  /** `moved` gives the edits for a way in pixels of the frame; `done` is told where it was let go. */
  return (moved: (by: Point) => Edit[], what: string, done?: (by: Point) => void) => ({
    onPointerDown: (event: PointerEvent<SVGElement>) => {
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      held.current = { x: event.clientX, y: event.clientY, edits: [] };
    },
    onPointerMove: (event: PointerEvent<SVGElement>) => {
      event.stopPropagation();
      const grip = held.current;
      if (!grip) return;
      grip.edits = moved(unstretched(placing, [event.clientX - grip.x, event.clientY - grip.y]));
      if (grip.edits.length) preview(grip.edits);
    },
    onPointerUp: (event: PointerEvent<SVGElement>) => {
      event.stopPropagation();
      const grip = held.current;
      held.current = null;
      if (!grip) return;
      if (grip.edits.length) edit(grip.edits, what);
      done?.(unstretched(placing, [event.clientX - grip.x, event.clientY - grip.y]));
    },
    onKeyDown: (event: KeyboardEvent<SVGElement>) => {
      const way = WAYS[event.key];
      if (!way) return;
      event.preventDefault();
      event.stopPropagation();
      event.nativeEvent.stopImmediatePropagation();
      const far = event.shiftKey ? 10 : 1;
      const by: Point = [way[0] * far, way[1] * far];
      const edits = moved(by);
      if (edits.length) edit(edits, what);
      done?.(by);
    },
  });
}
