// biome-ignore-all lint/a11y/useSemanticElements: drawn parts of a picture have no elements of their own kind
import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import { type Card, isKeys, withValue } from "../../api/document";
import { triedAt } from "../edits";
import { type Edit, useSessionParts } from "../session";
import { cardsOf, documentOf, pathOf, shownName } from "../shotParts";
import { MotionPath } from "./MotionPath";
import { inPicture, onStage, type Placing } from "./placing";
import { dragged, type Grip, stepped } from "./placingDrag";
import { type Matrix, matrixOf, type Numbers, numbersOf, type Point, through, times, WAYS } from "./placingMath";
import { type Box, type Guide, linesOf, snapped } from "./snapping";
import { useStanding } from "./useStanding";

type Held = { what: Grip; start: Point; from: Numbers };

const TITLES: Record<Grip, string> = {
  move: "move",
  scale: "scale",
  wide: "scale across",
  high: "scale down",
  turn: "turn",
  about: "point",
};

/** The handles of the open card in the picture, while its placing is open. */
export function PlacingHandles({ placing }: { placing: Placing }) {
  const { shot, openCard, openMatte, handles } = useSessionParts("shot", "openCard", "openMatte", "handles");
  const card = cardsOf(shot).find((one) => one.id === openCard);
  if (!shot || !card || card.treat || openMatte || !handles) return null;
  return <Handles key={card.id} card={card} placing={placing} />;
}

function Handles({ card, placing }: { card: Card; placing: Placing }) {
  const { shot, frame, edit, preview, previewed } = useSessionParts("shot", "frame", "edit", "preview", "previewed");
  const standing = useStanding(card.id);
  const grip = useRef<Held | null>(null);
  const [guides, setGuides] = useState<Guide[]>([]);
  if (!shot || !standing) return null;
  const { width, height } = documentOf(shot).format;
  const path = [...pathOf(shot, card.id), "placing"];
  const saved = card.placing ?? {};
  const middle: Point = [width / 2, height / 2];
  const now = numbersOf({ ...saved, ...triedAt(previewed, path) }, frame, middle);
  const parent = standing.parent as Matrix;
  const total = times(parent, matrixOf(now));
  const screen = (point: Point): Point => onStage(placing, point);
  const seen = (point: Point): Point => screen(through(total, point));
  const box: Box = (standing.box as Box | null) ?? [0, 0, width, height];
  const corners: Point[] = [
    [box[0], box[1]],
    [box[2], box[1]],
    [box[2], box[3]],
    [box[0], box[3]],
  ];
  const centre: Point = [(box[0] + box[2]) / 2, (box[1] + box[3]) / 2];
  const pivot = screen(through(parent, [now.about[0] + now.move[0], now.about[1] + now.move[1]]));

  const edits = (changed: Partial<Numbers>): Edit[] =>
    Object.entries(changed).map(([name, value]) => ({
      op: "set",
      path: [...path, name],
      value: withValue(saved[name] ?? value, frame, value),
    }));
  const frameBox = (numbers: Numbers): Box => {
    const points = corners.map((corner) => through(times(parent, matrixOf(numbers)), corner));
    const [xs, ys] = [points.map(([x]) => x), points.map(([, y]) => y)];
    return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
  };

  const snap = (moved: Numbers): Point => {
    const found = snapped(frameBox(moved), linesOf(width, height, standing.others as Box[]), placing.zoom);
    setGuides(found.on);
    return found.by;
  };
  /** What a drag makes of the numbers that it began with; with the alternative key it holds on to nothing. */
  const changed = ({ what, start, from }: Held, event: PointerEvent): Partial<Numbers> => {
    if (event.altKey) setGuides([]);
    const way: [Point, Point] = [inPicture(placing, start), inPicture(placing, local(event))];
    return dragged(what, from, parent, way, event.altKey, snap);
  };
  const drag = (what: Grip) => ({
    onPointerDown: (event: PointerEvent<SVGElement>) => {
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      grip.current = { what, start: local(event), from: now };
    },
    onPointerMove: (event: PointerEvent<SVGElement>) => {
      event.stopPropagation();
      if (grip.current) preview(edits(changed(grip.current, event)));
    },
    onPointerUp: (event: PointerEvent<SVGElement>) => {
      event.stopPropagation();
      const held = grip.current;
      grip.current = null;
      if (!held) return;
      const end = local(event);
      if (Math.hypot(end[0] - held.start[0], end[1] - held.start[1]) < 1.5) preview([]);
      else edit(edits(changed(held, event)), `${TITLES[held.what]} ${shownName(card)}`);
      setGuides([]);
    },
    onKeyDown: (event: KeyboardEvent) => {
      const way = WAYS[event.key];
      if (!way) return;
      const far = event.shiftKey ? 10 : 1;
      edit(edits(stepped(what, now, [way[0] * far, way[1] * far])), `${TITLES[what]} ${shownName(card)}`);
      event.preventDefault();
      event.stopPropagation();
      event.nativeEvent.stopImmediatePropagation();
    },
    role: "button",
    tabIndex: 0,
  });

  const outline = corners.map(seen);
  const top: Point = [
    ((outline[0]?.[0] ?? 0) + (outline[1]?.[0] ?? 0)) / 2,
    ((outline[0]?.[1] ?? 0) + (outline[1]?.[1] ?? 0)) / 2,
  ];
  const heart = seen(centre);
  const away = Math.hypot(top[0] - heart[0], top[1] - heart[1]) || 1;
  const turner: Point = [top[0] + ((top[0] - heart[0]) / away) * 26, top[1] + ((top[1] - heart[1]) / away) * 26];
  const side = (a: number, b: number): Point => [
    ((outline[a]?.[0] ?? 0) + (outline[b]?.[0] ?? 0)) / 2,
    ((outline[a]?.[1] ?? 0) + (outline[b]?.[1] ?? 0)) / 2,
  ];
  const keyed = isKeys(saved.move) || isKeys(saved.turn) || isKeys(saved.scale);
  return (
    <svg
      className="pointer-events-none absolute inset-0 size-full"
      role="group"
      aria-label={`Handles of ${shownName(card)}`}
    >
      {guides.map((guide) => {
        const [x, y] = screen([guide.at, guide.at]);
        return guide.way === "across" ? (
          <line
            key={`x${guide.at}`}
            x1={x}
            x2={x}
            y1={0}
            y2="100%"
            className="stroke-verdigris/70"
            strokeDasharray="2 3"
          />
        ) : (
          <line
            key={`y${guide.at}`}
            y1={y}
            y2={y}
            x1={0}
            x2="100%"
            className="stroke-verdigris/70"
            strokeDasharray="2 3"
          />
        );
      })}
      <MotionPath card={card} parent={parent} screen={screen} placing={placing} middle={middle} />
      <polygon points={outline.map((point) => point.join(",")).join(" ")} className="fill-none stroke-verdigris/80" />
      <line x1={top[0]} y1={top[1]} x2={turner[0]} y2={turner[1]} className="stroke-verdigris/50" />
      <circle
        cx={turner[0]}
        cy={turner[1]}
        r={5}
        aria-label="Turn"
        className={`${GRIP} cursor-grab`}
        {...drag("turn")}
      />
      {outline.map(([x, y], index) => (
        <rect
          // biome-ignore lint/suspicious/noArrayIndexKey: corners have nothing but their order
          key={index}
          x={x - 4.5}
          y={y - 4.5}
          width={9}
          height={9}
          aria-label={`Scale by corner ${index + 1}`}
          className={`${GRIP} cursor-nwse-resize`}
          {...drag("scale")}
        />
      ))}
      {(
        [
          ["wide", side(1, 2)],
          ["high", side(2, 3)],
        ] as const
      ).map(([what, [x, y]]) => (
        <rect
          key={what}
          x={x - 3.5}
          y={y - 3.5}
          width={7}
          height={7}
          aria-label={what === "wide" ? "Scale across" : "Scale down"}
          className={`${GRIP} cursor-ew-resize`}
          {...drag(what)}
        />
      ))}
      <g aria-label="The point it turns about" className="pointer-events-auto cursor-crosshair" {...drag("about")}>
        <circle cx={pivot[0]} cy={pivot[1]} r={8} className="fill-transparent" />
        <path d={`M${pivot[0] - 7} ${pivot[1]}h14M${pivot[0]} ${pivot[1] - 7}v14`} className="stroke-verdigris" />
      </g>
      <rect
        x={heart[0] - 8}
        y={heart[1] - 8}
        width={16}
        height={16}
        rx={3}
        aria-label={`Move ${shownName(card)}`}
        className={`pointer-events-auto cursor-move stroke-verdigris ${keyed ? "fill-verdigris/60" : "fill-ground/60"}`}
        {...drag("move")}
      />
    </svg>
  );

  function local(event: PointerEvent): Point {
    const area = (event.currentTarget as SVGElement).ownerSVGElement?.getBoundingClientRect();
    return [event.clientX - (area?.left ?? 0), event.clientY - (area?.top ?? 0)];
  }
}

const GRIP = "pointer-events-auto fill-ground stroke-verdigris hover:fill-verdigris focus:fill-verdigris";
