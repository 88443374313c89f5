import {
  type KeyboardEvent,
  type MouseEvent,
  type PointerEvent,
  type RefObject,
  useEffect,
  useRef,
  useState,
  type WheelEvent,
} from "react";
import { useSessionParts } from "../session";
import { pick } from "./picking";
import { inPicture, onStage, type Placing, toPicture, zoomedAt } from "./placing";
import { WAYS } from "./placingMath";
import { useDrawing } from "./useDrawing";
import { inside, useGather } from "./useGather";
import { useTouching } from "./useTouching";
import { reachFor, useUnder } from "./useUnder";
import { useLying, useView } from "./view";

type Point = [number, number];
const FAR = 10;
const EDGE = 24;

/** The hand over the picture, by mouse or by keys: what is under it, and what a press there does. */
export function usePointing(stage: RefObject<HTMLDivElement | null>, placing: Placing) {
  const { playing, picking, lookingAt, set } = useSessionParts("playing", "picking", "lookingAt", "set");
  const { stage: size, picture } = useLying();
  const [cursor, setCursor] = useState<Point | null>(null);
  const [byKeys, setByKeys] = useState(false);
  const { touching, open, close } = useTouching(size, placing);
  const drag = useRef<{ x: number; y: number; from: Placing; moved: boolean } | null>(null);
  const at = cursor && !playing ? toPicture(placing, cursor[0], cursor[1]) : null;
  const over = at && inside(at, picture);
  const gather = useGather(picture);
  const draw = useDrawing();
  const found = useUnder(over, placing.zoom, touching !== null || draw.drawing || drag.current?.moved === true);
  const [x0, y0] = over ?? [-1, -1];
  useEffect(() => useView.setState({ under: x0 < 0 ? null : [x0, y0] }), [x0, y0]);

  const where = (event: PointerEvent | WheelEvent): Point => {
    const box = stage.current?.getBoundingClientRect();
    return [event.clientX - (box?.left ?? 0), event.clientY - (box?.top ?? 0)];
  };
  const move = (to: Placing) => useView.setState({ free: to });

  /** What a click does there: a point of a drawing, a value that was asked for, a part whose leaks are shown, or a touch. */
  const press = ([x, y]: Point) => {
    const spot = inside(toPicture(placing, x, y), picture);
    if (draw.drawing) draw.add(inPicture(placing, [x, y]), placing.zoom);
    else if (picking) {
      if (spot) pick(picking, spot);
    } else if (spot && lookingAt.kind === "leaks") set({ lookingAt: { ...lookingAt, at: spot } });
    else if (spot) open(found, spot, [x, y]);
  };

  /** The cursor by keys: from the middle at first; at the rim of the stage the picture moves instead. */
  const step = ([dx, dy]: Point, far: boolean) => {
    const by = far ? FAR : 1;
    const from = cursor ?? [size.width / 2, size.height / 2];
    const [px, py] = toPicture(placing, from[0], from[1]);
    const to: Point = [
      Math.min(picture.width - 1, Math.max(0, px + dx * by)),
      Math.min(picture.height - 1, Math.max(0, py + dy * by)),
    ];
    const middle: Point = [to[0] + 0.5, to[1] + 0.5];
    let [x, y] = onStage(placing, middle);
    const out = (value: number, most: number) =>
      value < EDGE ? EDGE - value : value > most - EDGE ? most - EDGE - value : 0;
    const moved = { ...placing, x: placing.x + out(x, size.width), y: placing.y + out(y, size.height) };
    if (moved.x !== placing.x || moved.y !== placing.y) {
      move(moved);
      [x, y] = onStage(moved, middle);
    }
    setByKeys(true);
    setCursor([x, y]);
  };

  const on = {
    onWheel: (event: WheelEvent) => {
      const [x, y] = where(event);
      move(zoomedAt(placing, 2 ** (-event.deltaY / 300), x, y));
    },
    onPointerDown: (event: PointerEvent<HTMLDivElement>) => {
      if (touching) {
        close();
        return;
      }
      const [x, y] = where(event);
      if (event.shiftKey && !picking) gather.begin([x, y], toPicture(placing, x, y), event.altKey);
      else drag.current = { x, y, from: placing, moved: false };
      event.currentTarget.setPointerCapture(event.pointerId);
    },
    onPointerMove: (event: PointerEvent<HTMLDivElement>) => {
      const [x, y] = where(event);
      setByKeys(false);
      setCursor([x, y]);
      if (gather.stroke) gather.extend([x, y], toPicture(placing, x, y));
      const start = drag.current;
      if (!start) return;
      if (!start.moved && Math.hypot(x - start.x, y - start.y) < 4) return;
      start.moved = true;
      move({ ...start.from, x: start.from.x + x - start.x, y: start.from.y + y - start.y });
    },
    onPointerUp: (event: PointerEvent<HTMLDivElement>) => {
      if (gather.stroke) {
        gather.finish(reachFor(placing.zoom));
        return;
      }
      const start = drag.current;
      drag.current = null;
      if (!start || start.moved || playing || event.button !== 0) return;
      press(where(event));
    },
    // the keys stay with the page: only keys focus the picture, and what was being typed elsewhere is done with
    onMouseDown: (event: MouseEvent) => {
      if (event.target !== event.currentTarget && !(event.target instanceof HTMLCanvasElement)) return;
      event.preventDefault();
      if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
    },
    onPointerLeave: () => {
      if (!byKeys) setCursor(null);
    },
    onBlur: () => {
      if (byKeys && !touching) setCursor(null);
    },
    onKeyDown: (event: KeyboardEvent<HTMLDivElement>) => {
      if (event.target !== event.currentTarget || event.altKey || event.ctrlKey || event.metaKey) return;
      const way = WAYS[event.key];
      if (way) step(way, event.shiftKey);
      else if (event.key === "Enter" && cursor && over) {
        if (event.shiftKey && !picking && !draw.drawing) gather.at(over, reachFor(placing.zoom));
        // while a shape is drawn Enter closes it, and a blank sets a point
        else if (!draw.drawing) press(cursor);
      } else if (event.key === " " && draw.drawing && cursor) press(cursor);
      else if (event.key === "Escape" && cursor && byKeys) setCursor(null);
      else return;
      event.preventDefault();
      event.stopPropagation();
      event.nativeEvent.stopImmediatePropagation();
    },
  };
  const released = () => {
    close();
    if (byKeys) stage.current?.focus();
  };
  return { found, cursor, over, byKeys, touching, gather, draw, close: released, on };
}
