// biome-ignore-all lint/a11y/useSemanticElements: drawn parts of a plot have no elements of their own kind
import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import { type Keys, type Treatment, valueAt, withValue } from "../../../api/document";
import { type Edit, useSessionParts } from "../../session";

const SIZE = 96;
const RING = 43; // the radius at which saturation is 2
const MOST = 2;
type Colouring = { hue: number; saturation: number };

/** Turn and saturation at once: the way round is the turn of hue, the way out the saturation; halfway out nothing changes. */
export function HueRing({ treatment, path }: { treatment: Treatment; path: string[] }) {
  const { frame, edit, preview } = useSessionParts("frame", "edit", "preview");
  const [tried, setTried] = useState<Colouring | null>(null);
  const ring = useRef<HTMLDivElement>(null);
  const held = useRef<Colouring | null>(null);
  const at = (key: keyof Colouring, usual: number) =>
    valueAt<number>((treatment[key] as number | Keys | undefined) ?? usual, frame);
  const saved = { hue: at("hue", 0), saturation: at("saturation", 1) };
  const { hue, saturation } = tried ?? saved;
  const name = treatment.name ?? "grade";
  const edits = (next: Colouring): Edit[] =>
    (["hue", "saturation"] as const)
      .filter((key) => next[key] !== saved[key])
      .map((key) => ({
        op: "set",
        path: [...path, key],
        value: withValue(treatment[key] ?? saved[key], frame, next[key]),
      }));
  const place = (event: PointerEvent): Colouring => {
    const box = ring.current?.getBoundingClientRect();
    if (!box) return saved;
    const [x, y] = [event.clientX - box.left - box.width / 2, box.top + box.height / 2 - event.clientY];
    const out = (Math.hypot(x, y) / RING) * MOST;
    const turn = (Math.atan2(x, y) * 180) / Math.PI;
    // near what it is by itself it stays there
    return { hue: Math.abs(turn) < 3 ? 0 : Math.round(turn), saturation: Number(Math.min(MOST, out).toFixed(2)) };
  };
  const keyed = (event: KeyboardEvent) => {
    const by = event.shiftKey ? 10 : 1;
    const ways: Record<string, Partial<Colouring>> = {
      ArrowLeft: { hue: saved.hue - by },
      ArrowRight: { hue: saved.hue + by },
      ArrowUp: { saturation: Number((saved.saturation + by / 50).toFixed(3)) },
      ArrowDown: { saturation: Number(Math.max(0, saved.saturation - by / 50).toFixed(3)) },
    };
    const way = ways[event.key];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    edit(edits({ ...saved, ...way }), `colours of ${name}`);
  };
  const angle = (hue * Math.PI) / 180;
  const out = (Math.min(MOST, saturation) / MOST) * RING;
  return (
    <div className="flex items-center gap-3 py-1.5">
      <div
        ref={ring}
        role="slider"
        tabIndex={0}
        aria-label="Turn and saturation"
        aria-valuenow={hue}
        aria-valuetext={`turned by ${Math.round(hue)} degrees, saturation ${saturation.toFixed(2)}`}
        title="round: the turn of hue; out: saturation; double-click: as it was"
        className="relative shrink-0 cursor-crosshair touch-none rounded-full outline-none focus-visible:outline-1 focus-visible:outline-verdigris"
        style={{
          width: SIZE,
          height: SIZE,
          background: `radial-gradient(circle, #6b6b6d 0, #6b6b6d00 62%), conic-gradient(#b8625a, #b09a4c, #6f9a57, #4f9a98, #5f77b8, #9a5f9c, #b8625a)`,
        }}
        onPointerDown={(event) => {
          if (event.button !== 0) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          held.current = saved;
        }}
        onPointerMove={(event) => {
          if (!held.current) return;
          held.current = place(event);
          setTried(held.current);
          preview(edits(held.current));
        }}
        onPointerUp={() => {
          const next = held.current;
          held.current = null;
          setTried(null);
          if (next && edits(next).length) edit(edits(next), `colours of ${name}`);
        }}
        onDoubleClick={() => edit(edits({ hue: 0, saturation: 1 }), `colours of ${name} as they were`)}
        onKeyDown={keyed}
      >
        <span className="pointer-events-none absolute inset-[25px] rounded-full border border-text/35 border-dashed" />
        <span
          className="-translate-x-1/2 -translate-y-1/2 pointer-events-none absolute size-[11px] rounded-full border-2 border-text bg-ground/60"
          style={{ left: SIZE / 2 + Math.sin(angle) * out, top: SIZE / 2 - Math.cos(angle) * out }}
        />
      </div>
      <div className="value text-[11.5px] text-quiet">
        <div>turn {Math.round(hue)}°</div>
        <div>saturation {saturation.toFixed(2)}</div>
      </div>
    </div>
  );
}
