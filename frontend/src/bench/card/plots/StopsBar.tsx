// biome-ignore-all lint/a11y/useSemanticElements: a bar of stops is no set of fields
// biome-ignore-all lint/suspicious/noArrayIndexKey: stops have nothing but their order
import { Trash2 } from "lucide-react";
import { type PointerEvent, useRef, useState } from "react";
import { IconButton } from "../../../controls/Button";
import { NumberField } from "../../../controls/NumberField";
import { useSessionParts } from "../../session";
import { ColourWell } from "../ColourWell";
import { useColours } from "../useColours";

export type Stop = { at: number; colour: [number, number, number]; alpha: number };

type Props = {
  stops: Stop[];
  path: string[];
  name: string;
  /** Stops as the document has them. */
  written: (stops: Stop[]) => unknown;
};

/** Colours at places along a bar: dragged, added by a click on the bar, coloured below it. */
export function StopsBar({ stops: saved, path, name, written }: Props) {
  const { edit, preview } = useSessionParts("edit", "preview");
  const [chosen, setChosen] = useState(0);
  const [draft, setDraft] = useState<Stop[] | null>(null);
  const bar = useRef<HTMLDivElement>(null);
  const grip = useRef<{ index: number; stops: Stop[] } | null>(null);
  const stops = draft ?? saved;
  const { css } = useColours();
  const stop = stops[Math.min(chosen, stops.length - 1)];
  const put = (next: Stop[]) => [{ op: "set" as const, path, value: written(next) }];
  const save = (next: Stop[], what: string) => {
    setDraft(null);
    edit(put(next), what);
  };
  const change = (part: Partial<Stop>) => stops.map((one, i) => (i === chosen ? { ...one, ...part } : one));
  const place = (event: PointerEvent) => {
    const box = bar.current?.getBoundingClientRect();
    return box ? Math.min(1, Math.max(0, (event.clientX - box.left) / box.width)) : 0;
  };
  const limited = (list: Stop[], index: number, at: number) => {
    const low = index > 0 ? (list[index - 1] as Stop).at + 0.002 : 0;
    const high = index < list.length - 1 ? (list[index + 1] as Stop).at - 0.002 : 1;
    return Number(Math.min(high, Math.max(low, at)).toFixed(4));
  };
  const between = (at: number): Stop => {
    const after = stops.findIndex((one) => one.at > at);
    const [a, b] = [
      stops[Math.max(0, (after < 0 ? stops.length : after) - 1)] as Stop,
      stops[after] ?? (stops.at(-1) as Stop),
    ];
    const t = b.at > a.at ? (at - a.at) / (b.at - a.at) : 0;
    const mix = (x: number, y: number) => Number((x + (y - x) * t).toFixed(4));
    return {
      at: Number(at.toFixed(4)),
      colour: a.colour.map((x, i) => mix(x, b.colour[i] as number)) as Stop["colour"],
      alpha: mix(a.alpha, b.alpha),
    };
  };
  const add = (at: number) => {
    const next = [...stops, between(at)].sort((a, b) => a.at - b.at);
    setChosen(next.findIndex((one) => one.at === Number(at.toFixed(4))));
    save(next, `add a stop to ${name}`);
  };
  const ramp = stops.map((one) => `${css(one.colour, one.alpha)} ${one.at * 100}%`).join(", ");
  return (
    <div className="py-1.5">
      <div
        ref={bar}
        role="group"
        aria-label={`Stops of ${name}; a click on the bar adds one`}
        className="relative mb-4 h-[18px] cursor-copy touch-none rounded-[2px] border border-line"
        style={{
          background: `linear-gradient(to right, ${ramp}), repeating-conic-gradient(#3a3a3c 0 25%, #58585a 0 50%) 0 0 / 10px 10px`,
        }}
        onPointerDown={(event) => {
          if (event.target === event.currentTarget) add(place(event));
        }}
      >
        {stops.map((one, index) => (
          <button
            key={index}
            type="button"
            aria-label={`Stop at ${one.at.toFixed(2)}`}
            aria-pressed={index === chosen}
            className={`-translate-x-1/2 absolute top-[14px] size-[13px] cursor-ew-resize rounded-full border-2 ${index === chosen ? "border-verdigris" : "border-text"}`}
            style={{ left: `${one.at * 100}%`, background: css(one.colour, 1) }}
            onPointerDown={(event) => {
              event.stopPropagation();
              setChosen(index);
              grip.current = { index, stops };
              event.currentTarget.setPointerCapture(event.pointerId);
            }}
            onPointerMove={(event) => {
              const held = grip.current;
              if (!held) return;
              const at = limited(held.stops, held.index, place(event));
              held.stops = held.stops.map((old, i) => (i === held.index ? { ...old, at } : old));
              setDraft(held.stops);
              preview(put(held.stops));
            }}
            onPointerUp={() => {
              const held = grip.current;
              grip.current = null;
              if (held && held.stops !== saved) save(held.stops, `move a stop of ${name}`);
            }}
            onKeyDown={(event) => {
              const by = { ArrowLeft: -0.01, ArrowRight: 0.01 }[event.key];
              if (by) save(change({ at: limited(stops, index, one.at + by) }), `move a stop of ${name}`);
              else if (event.key === "Delete" && stops.length > 1) {
                save(
                  stops.filter((_, i) => i !== index),
                  `take a stop out of ${name}`,
                );
              } else return;
              event.preventDefault();
              event.stopPropagation();
            }}
          />
        ))}
      </div>
      {stop && (
        <div className="grid grid-cols-[18px_1fr_1fr_1fr_1fr_26px] items-center gap-1">
          <ColourWell
            label="Stop"
            colour={stop.colour}
            onPreview={(colour) => preview(put(change({ colour: colour as Stop["colour"] })))}
            onCommit={(colour) => save(change({ colour: colour as Stop["colour"] }), `colour of a stop of ${name}`)}
          />
          {["R", "G", "B"].map((letter, c) => (
            <NumberField
              key={letter}
              compact
              label={`Stop ${letter}`}
              value={stop.colour[c]}
              fallback={0}
              low={0}
              high={1000}
              soft={[0, 1]}
              step={0.01}
              onPreview={(value) => preview(put(change({ colour: coloured(stop, c, value) })))}
              onCommit={(value) => save(change({ colour: coloured(stop, c, value) }), `colour of a stop of ${name}`)}
            />
          ))}
          <NumberField
            compact
            label="Stop alpha"
            value={stop.alpha}
            fallback={1}
            low={0}
            high={1}
            soft={[0, 1]}
            step={0.01}
            onPreview={(alpha) => preview(put(change({ alpha })))}
            onCommit={(alpha) => save(change({ alpha }), `alpha of a stop of ${name}`)}
          />
          <IconButton
            label="Take the stop out"
            look="ghost"
            disabled={stops.length < 2}
            onClick={() => {
              setChosen(0);
              save(
                stops.filter((one) => one !== stop),
                `take a stop out of ${name}`,
              );
            }}
          >
            <Trash2 size={12} />
          </IconButton>
        </div>
      )}
    </div>
  );
}

const coloured = (stop: Stop, channel: number, value: number) =>
  stop.colour.map((old, i) => (i === channel ? value : old)) as Stop["colour"];
