import { X } from "lucide-react";
import { useEffect, useRef } from "react";
import type { Probe, UnderCursor } from "../../api/client";
import { lastPart, partsBefore } from "../matte/names";
import { TailOfName } from "../matte/TailOfName";
import { useDisplayNames } from "../useDisplayNames";
import { offerAt } from "./useUnder";

const CELL = 6;

type Props = {
  probe: Probe;
  under: UnderCursor | null;
  rank?: number;
  left: number;
  top: number;
  onRelease?: () => void;
};

/** Enlarged pixels at the cursor with their true values and the names of what they show. */
export function Loupe({ probe, under, rank = 0, left, top, onRelease }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const side = probe.size * CELL;

  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!context) return;
    probe.pixels.forEach(([r, g, b], index) => {
      context.fillStyle = `rgb(${r} ${g} ${b})`;
      context.fillRect((index % probe.size) * CELL, Math.floor(index / probe.size) * CELL, CELL, CELL);
    });
    const middle = Math.floor(probe.size / 2) * CELL;
    context.strokeStyle = "#e8e8e5";
    context.strokeRect(middle + 0.5, middle + 0.5, CELL - 1, CELL - 1);
  }, [probe]);

  const { shown } = useDisplayNames();
  const called = (name: string) => lastPart(shown(name));
  const lit = offerAt(under, rank);
  const offers = Math.max(1, under?.offers?.length ?? 0);
  const material = under?.material;
  const number = (value: number | null | undefined) =>
    value === null || value === undefined
      ? "none"
      : Math.abs(value) >= 1000
        ? value.toExponential(3)
        : value.toFixed(4);
  return (
    <div
      className={`absolute z-10 flex gap-2.5 rounded-sm border bg-panel/95 p-1.5 pr-2.5 ${onRelease ? "border-verdigris" : "pointer-events-none border-line"}`}
      style={{ left, top }}
      data-testid={onRelease ? "pinned loupe" : "loupe"}
    >
      {onRelease && (
        <button
          type="button"
          aria-label="Let the values go"
          title="let the values go (V)"
          className="absolute top-1 right-1 text-quiet hover:text-text"
          onClick={onRelease}
        >
          <X size={12} />
        </button>
      )}
      <canvas ref={canvas} width={side} height={side} className="rounded-sm" />
      <div className="value leading-[1.45]">
        <div className="text-quiet">
          {probe.x}, {probe.y}
        </div>
        {probe.channels.length === 1 ? (
          <div>{number(probe.value[0])}</div>
        ) : (
          <div>{probe.value.slice(0, 3).map(number).join("  ")}</div>
        )}
        {probe.channels.length > 3 && <div className="text-quiet">alpha {number(probe.value[3])}</div>}
        {under?.depth !== null && under?.depth !== undefined && (
          <div className="text-quiet">depth {number(under.depth)}</div>
        )}
        {lit && <div className="mt-0.5 font-sans text-[12px] text-lilac">{lit.titles.map(called).join(" x ")}</div>}
        {lit?.titles.length === 1 && partsBefore(lit.titles[0] ?? "") && (
          <TailOfName
            name={partsBefore(lit.titles[0] ?? "")}
            className="block max-w-[220px] font-sans text-[11px] text-quiet"
          />
        )}
        {under?.object && under.material && lit?.place !== material?.layer && (
          <div className="font-sans text-[11px] text-quiet">{shown(under.material.name).replaceAll("_", " ")}</div>
        )}
        {lit && (under?.object === null || rank % offers > 0) && (
          <div className="font-sans text-[11px] text-quiet">{lit.place?.replaceAll("_", " ")}</div>
        )}
      </div>
    </div>
  );
}
