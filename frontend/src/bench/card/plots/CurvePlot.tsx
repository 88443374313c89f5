// biome-ignore-all lint/a11y/useSemanticElements: drawn parts of a plot have no elements of their own kind
// biome-ignore-all lint/a11y/noNoninteractiveTabindex: the keys work on the plot as the mouse does
// biome-ignore-all lint/a11y/noStaticElementInteractions: a point is reached by keys through its plot
// biome-ignore-all lint/suspicious/noArrayIndexKey: points have nothing but their order
import { RotateCcw } from "lucide-react";
import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { Card, Treatment } from "../../../api/document";
import { Segments } from "../../../controls/Segments";
import { useSessionParts } from "../../session";
import { linear, shown } from "./display";
import { curveThrough, type Point } from "./monotone";
import { PlotGround } from "./PlotGround";
import { useHistogram } from "./useHistogram";

const WIDTH = 262;
const HEIGHT = 170;
const LEAST = 0.001;
const STRAIGHT: Point[] = [
  [0, 0],
  [1, 1],
];
const CURVES = [
  { value: "master", text: "all", title: "all channels" },
  { value: "red", text: "R", title: "red" },
  { value: "green", text: "G", title: "green" },
  { value: "blue", text: "B", title: "blue" },
];
const STROKES: Record<string, string> = {
  master: "stroke-text",
  red: "stroke-[#d98078]",
  green: "stroke-[#86b87b]",
  blue: "stroke-[#7f9fd6]",
};

const across = (x: number) => shown(x) * WIDTH;
const down = (y: number) => HEIGHT - shown(y) * HEIGHT;
const rounded = (value: number) => Number(value.toFixed(4));

/** Curves on a plot whose axes are as a display shows light: points are dragged, added by a click, taken out by Delete. */
export function CurvePlot({ card, treatment, path }: { card: Card; treatment: Treatment; path: string[] }) {
  const counts = useHistogram(card, treatment);
  const { edit, preview, previewed } = useSessionParts("edit", "preview", "previewed");
  const [which, setWhich] = useState("master");
  const [chosen, setChosen] = useState<number | null>(null);
  const plot = useRef<SVGSVGElement>(null);
  const grip = useRef<{ index: number; points: Point[] } | null>(null);
  const at = [...path, which];
  const tried = previewed.find((one) => one.op === "set" && one.path.join("/") === at.join("/"));
  const saved = (treatment[which] as Point[] | undefined) ?? STRAIGHT;
  const points = tried && "value" in tried ? (tried.value as Point[]) : saved;
  const name = treatment.name ?? "curves";
  const put = (next: Point[]) => [{ op: "set" as const, path: at, value: next }];

  const place = (event: PointerEvent): Point => {
    const box = plot.current?.getBoundingClientRect();
    if (!box) return [0, 0];
    return [linear((event.clientX - box.left) / box.width), linear(1 - (event.clientY - box.top) / box.height)];
  };
  const moved = (from: Point[], index: number, [x, y]: Point): Point[] => {
    const low = index > 0 ? (from[index - 1] as Point)[0] + LEAST : -1;
    const high = index < from.length - 1 ? (from[index + 1] as Point)[0] - LEAST : 100;
    return from.map((one, i) => (i === index ? [rounded(Math.min(high, Math.max(low, x))), rounded(y)] : one));
  };
  const remove = (index: number) => {
    if (points.length <= 2) return;
    setChosen(null);
    edit(put(points.filter((_, i) => i !== index)), `take a point out of ${name}`);
  };
  const pressed = (event: PointerEvent<SVGSVGElement>) => {
    if (event.button !== 0) return;
    const [x, y] = place(event);
    const near = points.findIndex(([px, py]) => Math.hypot(across(px) - across(x), down(py) - down(y)) < 9);
    const next = near >= 0 ? points : [...points, [rounded(x), rounded(y)] as Point].sort((a, b) => a[0] - b[0]);
    const index = near >= 0 ? near : next.findIndex((one) => one[0] === rounded(x));
    grip.current = { index, points: next };
    setChosen(index);
    event.currentTarget.setPointerCapture(event.pointerId);
    if (near < 0) preview(put(next));
  };
  const dragged = (event: PointerEvent<SVGSVGElement>) => {
    const held = grip.current;
    if (!held) return;
    held.points = moved(held.points, held.index, place(event));
    preview(put(held.points));
  };
  const released = () => {
    const held = grip.current;
    grip.current = null;
    if (held && JSON.stringify(held.points) !== JSON.stringify(saved)) edit(put(held.points), `${which} of ${name}`);
    else preview([]);
  };
  const keyed = (event: KeyboardEvent) => {
    if (chosen === null) return;
    const step = event.shiftKey ? 0.1 : 0.01;
    const ways: Record<string, Point> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, step],
      ArrowDown: [0, -step],
    };
    const way = ways[event.key];
    const point = points[chosen];
    if (way && point) {
      const to: Point = [linear(shown(point[0]) + way[0]), linear(shown(point[1]) + way[1])];
      edit(put(moved(points, chosen, to)), `${which} of ${name}`);
    } else if (event.key === "Delete" || event.key === "Backspace") remove(chosen);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };

  const curve = curveThrough(points);
  const line = Array.from({ length: 132 }, (_, i) => {
    const x = linear(i / 131);
    return `${i ? "L" : "M"}${(i / 131) * WIDTH} ${Math.max(-20, Math.min(HEIGHT + 20, down(curve(x))))}`;
  }).join(" ");
  const told = chosen === null ? null : points[chosen];
  return (
    <div className="py-1">
      <div className="mb-1.5 flex items-center gap-1">
        <Segments
          plain
          label="Which curve"
          name={`curve of ${treatment.id}`}
          className="flex gap-1"
          shape="h-[22px] px-2"
          choices={CURVES}
          value={which}
          onPick={(next) => {
            setWhich(next);
            setChosen(null);
          }}
        />
        <span className="value ml-auto text-[10.5px] text-quiet">
          {told ? `${told[0].toFixed(3)} → ${told[1].toFixed(3)}` : "linear light"}
        </span>
        <button
          type="button"
          aria-label={`Reset ${which}`}
          title="straight again"
          disabled={treatment[which] === undefined}
          onClick={() => edit([{ op: "set", path: at, value: null }], `reset ${which} of ${name}`)}
          className={`text-faint hover:text-text ${treatment[which] === undefined ? "invisible" : ""}`}
        >
          <RotateCcw size={12} />
        </button>
      </div>
      <svg
        ref={plot}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="application"
        aria-label={`Curve of ${which}: ${points.length} points`}
        tabIndex={0}
        className="block w-full cursor-crosshair touch-none overflow-visible rounded-[2px] bg-stage outline-none focus-visible:outline-1 focus-visible:outline-verdigris"
        onPointerDown={pressed}
        onPointerMove={dragged}
        onPointerUp={released}
        onKeyDown={keyed}
      >
        <PlotGround counts={counts} width={WIDTH} height={HEIGHT} />
        {CURVES.filter((one) => one.value !== which && treatment[one.value] !== undefined).map((one) => {
          const other = curveThrough(treatment[one.value] as Point[]);
          const d = Array.from({ length: 66 }, (_, i) => {
            const y = down(other(linear(i / 65)));
            return `${i ? "L" : "M"}${(i / 65) * WIDTH} ${Math.max(-20, Math.min(HEIGHT + 20, y))}`;
          }).join(" ");
          return <path key={one.value} d={d} className={`fill-none opacity-40 ${STROKES[one.value]}`} />;
        })}
        <path d={line} className={`fill-none stroke-[1.5] ${STROKES[which]}`} />
        {points.map(([x, y], index) => (
          <circle
            key={index}
            cx={across(x)}
            cy={down(y)}
            r={4.5}
            className={`cursor-grab ${index === chosen ? "fill-verdigris stroke-ground" : "fill-panel stroke-text"}`}
            onDoubleClick={() => remove(index)}
          />
        ))}
      </svg>
    </div>
  );
}
