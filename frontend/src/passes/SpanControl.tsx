import { useQuery } from "@tanstack/react-query";
import { type PointerEvent, useRef, useState } from "react";
import { answer, api, type Schemas } from "../api/client";
import { useSessionParts } from "../bench/session";
import { Button } from "../controls/Button";
import type { PassEntry } from "./groups";

export type Range = [number, number];
type Props = { looked: PassEntry; range: Range | null; onRange: (range: Range | null) => void };

const told = (value: number) => (Math.abs(value) >= 1000 ? value.toFixed(0) : String(Number(value.toPrecision(4))));

/** What black and white stand for in a pass of values: a legend over how often each value occurs; its ends can be dragged or typed. */
export function SpanControl({ looked, range, onRange }: Props) {
  const { shot, frame } = useSessionParts("shot", "frame");
  const query = useQuery({
    queryKey: ["span", shot?.id, shot?.revision, frame, looked.source, looked.name],
    queryFn: () =>
      answer(
        api.GET("/api/shots/{shot_id}/span", {
          params: {
            path: { shot_id: shot?.id ?? 0 },
            query: { revision: shot?.revision ?? 0, frame, source: looked.source, name: looked.name },
          },
        }),
      ),
    enabled: shot !== null,
  });
  const span = query.data;
  if (!span) return <div className="h-[74px] border-t border-line" />;
  const [low, high] = range ?? [span.low, span.high];
  const set = (from: number, to: number) => onRange(from < to ? [from, to] : null);
  return (
    <fieldset
      className="flex h-[74px] shrink-0 items-center gap-3 border-t border-line px-4"
      aria-label="Range of values"
    >
      <End label="black" value={low} onChange={(value) => set(value, high)} />
      <Legend span={span} low={low} high={high} onRange={set} />
      <End label="white" value={high} onChange={(value) => set(low, value)} />
      {span.nothing > 0.0005 && (
        <span className="flex items-center gap-1.5 text-quiet">
          <span className="size-3 rounded-[2px] border border-line bg-[repeating-linear-gradient(135deg,#161616_0_2px,#222_2px_4px)]" />{" "}
          nothing there <span className="value">{Math.round(span.nothing * 100)} %</span>
        </span>
      )}
      <Button disabled={range === null} onClick={() => onRange(null)}>
        Usual range
      </Button>
      <Button onClick={() => onRange([span.least, span.most])}>All values</Button>
    </fieldset>
  );
}

function End({ label, value, onChange }: { label: string; value: number; onChange: (value: number) => void }) {
  const [text, setText] = useState<string | null>(null);
  const commit = () => {
    const typed = Number.parseFloat(text ?? "");
    if (Number.isFinite(typed)) onChange(typed);
    setText(null);
  };
  return (
    <label className="flex flex-col gap-0.5 text-[11px] text-quiet">
      {label}
      <input
        className="value h-6 w-20 rounded-sm bg-control px-1.5 text-right text-text"
        value={text ?? told(value)}
        onChange={(event) => setText(event.target.value)}
        onFocus={(event) => event.target.select()}
        onBlur={commit}
        onKeyDown={(event) => event.key === "Enter" && commit()}
        aria-label={`Value shown ${label}`}
      />
    </label>
  );
}

type LegendProps = {
  span: Schemas["SpanData"];
  low: number;
  high: number;
  onRange: (low: number, high: number) => void;
};

/** Bars of how often a value occurs, above the greys they are shown as. */
function Legend({ span, low, high, onRange }: LegendProps) {
  const box = useRef<HTMLDivElement>(null);
  const dragged = useRef<"low" | "high" | null>(null);
  const width = span.most - span.least || 1;
  const at = (value: number) => Math.min(100, Math.max(0, ((value - span.least) / width) * 100));
  const tallest = Math.max(1, ...span.counts);
  const move = (event: PointerEvent) => {
    const rect = box.current?.getBoundingClientRect();
    if (!rect || !dragged.current) return;
    const value = span.least + Math.min(1, Math.max(0, (event.clientX - rect.left) / rect.width)) * width;
    if (dragged.current === "low") onRange(Math.min(value, high - width / 1000), high);
    else onRange(low, Math.max(value, low + width / 1000));
  };
  const down = (event: PointerEvent) => {
    const rect = box.current?.getBoundingClientRect();
    if (!rect) return;
    const share = ((event.clientX - rect.left) / rect.width) * 100;
    dragged.current = Math.abs(share - at(low)) <= Math.abs(share - at(high)) ? "low" : "high";
    event.currentTarget.setPointerCapture(event.pointerId);
    move(event);
  };
  const greys = `linear-gradient(to right, #000 ${at(low)}%, #fff ${at(high)}%)`;
  return (
    <div className="min-w-40 flex-1">
      <div
        ref={box}
        className="relative h-10 cursor-ew-resize touch-none"
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={() => {
          dragged.current = null;
        }}
        aria-hidden="true"
      >
        <svg
          viewBox={`0 0 ${span.counts.length} 30`}
          preserveAspectRatio="none"
          className="h-7 w-full"
          aria-hidden="true"
        >
          {span.counts.map((count, index) => {
            const tall = count ? Math.max(1, 28 * Math.sqrt(count / tallest)) : 0;
            // biome-ignore lint/suspicious/noArrayIndexKey: a bar is its place in the histogram
            return <rect key={index} x={index} width={0.85} y={30 - tall} height={tall} fill="var(--color-faint)" />;
          })}
        </svg>
        <div className="h-2.5 rounded-[2px] border border-line" style={{ background: greys }} />
        {[low, high].map((value, index) => (
          <span
            key={index === 0 ? "low" : "high"}
            className="absolute inset-y-0 w-[3px] -translate-x-px rounded-[1px] bg-verdigris"
            style={{ left: `${at(value)}%` }}
          />
        ))}
      </div>
      <div className="value flex justify-between pt-0.5 text-[10.5px] text-faint">
        <span>{told(span.least)}</span>
        <span>{told(span.most)}</span>
      </div>
    </div>
  );
}
