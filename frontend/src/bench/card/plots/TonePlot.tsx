// biome-ignore-all lint/a11y/useSemanticElements: drawn parts of a plot have no elements of their own kind
import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import { type Card, type Keys, type Treatment, valueAt, withValue } from "../../../api/document";
import { Segments } from "../../../controls/Segments";
import { type Edit, useSessionParts } from "../../session";
import { linear, shown } from "./display";
import { PlotGround } from "./PlotGround";
import { useHistogram } from "./useHistogram";

const WIDTH = 262;
const HEIGHT = 150;
const STROKES = ["stroke-[#d98078]", "stroke-[#86b87b]", "stroke-[#7f9fd6]"];
const WHICH = [
  { value: "all", text: "all", title: "all channels" },
  { value: "0", text: "R", title: "red" },
  { value: "1", text: "G", title: "green" },
  { value: "2", text: "B", title: "blue" },
];
type Tones = { lift: number[]; gamma: number[]; gain: number[] };
type Grip = keyof Tones;
/** Where each is taken hold of, as a display shows it: what is black, the middle, what is white. */
const GRIPS: { of: Grip; at: number; title: string }[] = [
  { of: "lift", at: 0, title: "shadows" },
  { of: "gamma", at: 0.5, title: "middle" },
  { of: "gain", at: 1, title: "highlights" },
];
const rounded = (value: number) => Number(value.toPrecision(4));
const part = (list: number[], c: number) => list[c] as number;

/** (gain (x + lift (1 - x)))^(1 / gamma), negatives as they are. */
function toned(x: number, tones: Tones, c: number): number {
  const base = part(tones.gain, c) * (x + part(tones.lift, c) * (1 - x));
  return base > 0 ? base ** (1 / part(tones.gamma, c)) : base;
}

/** Shadows, middle and highlights as three grips on the curve that they make, over the histogram of what is treated. */
export function TonePlot({ card, treatment, path }: { card: Card; treatment: Treatment; path: string[] }) {
  const { frame, edit, preview } = useSessionParts("frame", "edit", "preview");
  const [which, setWhich] = useState("all");
  const [tried, setTried] = useState<Tones | null>(null);
  const plot = useRef<SVGSVGElement>(null);
  const grip = useRef<{ of: Grip; tones: Tones } | null>(null);
  const counts = useHistogram(card, treatment);
  const of = (key: Grip, usual: number) =>
    valueAt<number[]>((treatment[key] as number[] | Keys | undefined) ?? [usual, usual, usual], frame);
  const saved: Tones = { lift: of("lift", 0), gamma: of("gamma", 1), gain: of("gain", 1) };
  const tones = tried ?? saved;
  const name = treatment.name ?? "tones";
  const edits = (key: Grip, next: Tones): Edit[] => [
    { op: "set", path: [...path, key], value: withValue(treatment[key] ?? saved[key], frame, next[key]) },
  ];

  /** The tones with which a grip lies at a height `y`, as a display shows it. */
  const moved = (from: Tones, key: Grip, y: number): Tones => {
    const place = GRIPS.find((one) => one.of === key) as (typeof GRIPS)[number];
    const x = linear(place.at);
    const channels = which === "all" ? [0, 1, 2] : [Number(which)];
    const middle = channels.reduce((sum, c) => sum + shown(toned(x, from, c)), 0) / channels.length;
    const next = from[key].map((old, c) => {
      if (!channels.includes(c)) return old;
      // all move by as much as their middle does
      const to = linear(shown(toned(x, from, c)) + y - middle);
      const gamma = part(from.gamma, c);
      if (key === "lift")
        return rounded(Math.min(0.95, (to > 0 ? to ** gamma : to) / Math.max(part(from.gain, c), 1e-3)));
      if (key === "gain") return rounded(Math.max(0, to > 0 ? to ** gamma : 0));
      const base = part(from.gain, c) * (x + part(from.lift, c) * (1 - x));
      if (base <= 0 || base === 1 || to <= 0 || to === 1) return old;
      return rounded(Math.min(10, Math.max(0.1, Math.log(base) / Math.log(to))));
    });
    return { ...from, [key]: next };
  };
  const height = (event: PointerEvent) => {
    const box = plot.current?.getBoundingClientRect();
    return box ? 1 - (event.clientY - box.top) / box.height : 0;
  };
  const pressed = (event: PointerEvent<SVGCircleElement>, key: Grip) => {
    if (event.button !== 0) return;
    grip.current = { of: key, tones: saved };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const dragged = (event: PointerEvent) => {
    const held = grip.current;
    if (!held) return;
    held.tones = moved(held.tones, held.of, height(event));
    setTried(held.tones);
    preview(edits(held.of, held.tones));
  };
  const released = () => {
    const held = grip.current;
    grip.current = null;
    setTried(null);
    if (held && held.tones !== saved) edit(edits(held.of, held.tones), `${held.of} of ${name}`);
  };
  const keyed = (event: KeyboardEvent, key: Grip, y: number) => {
    const way = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    edit(edits(key, moved(saved, key, y + way * (event.shiftKey ? 0.1 : 0.01))), `${key} of ${name}`);
  };
  const channels = which === "all" ? [0, 1, 2] : [Number(which)];
  return (
    <div className="py-1">
      <Segments
        plain
        label="Which channel"
        name={`channel of ${treatment.id}`}
        className="mb-1.5 flex gap-1"
        shape="h-[22px] px-2"
        choices={WHICH}
        value={which}
        onPick={setWhich}
      />
      <svg
        ref={plot}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="group"
        aria-label={`Tones of ${name}`}
        className="block w-full touch-none overflow-visible rounded-[2px] bg-stage"
      >
        <PlotGround counts={counts} width={WIDTH} height={HEIGHT} />
        {[0, 1, 2].map((c) => {
          const line = Array.from({ length: 88 }, (_, i) => {
            const y = HEIGHT - shown(toned(linear(i / 87), tones, c)) * HEIGHT;
            return `${i ? "L" : "M"}${(i / 87) * WIDTH} ${Math.max(-20, Math.min(HEIGHT + 20, y))}`;
          });
          return (
            <path
              key={c}
              d={line.join("")}
              className={`fill-none stroke-[1.5] ${STROKES[c]} ${channels.includes(c) ? "" : "opacity-35"}`}
            />
          );
        })}
        {GRIPS.map(({ of: key, at, title }) => {
          const y = channels.reduce((sum, c) => sum + shown(toned(linear(at), tones, c)), 0) / channels.length;
          return (
            <circle
              key={key}
              role="slider"
              tabIndex={0}
              aria-label={title}
              aria-orientation="vertical"
              aria-valuenow={Number(y.toFixed(3))}
              cx={at * WIDTH}
              cy={Math.max(0, Math.min(HEIGHT, HEIGHT - y * HEIGHT))}
              r={5.5}
              className="cursor-ns-resize fill-panel stroke-[1.5] stroke-text outline-none focus-visible:stroke-verdigris"
              onPointerDown={(event) => pressed(event, key)}
              onPointerMove={dragged}
              onPointerUp={released}
              onKeyDown={(event) => keyed(event, key, y)}
            >
              <title>{`${title}: drag up or down`}</title>
            </circle>
          );
        })}
      </svg>
    </div>
  );
}
