import { X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { IconButton } from "../../controls/Button";
import { Segments } from "../../controls/Segments";
import { useSession, useSessionParts } from "../session";
import { mattesOf } from "../shotParts";
import { useComparisons } from "./compare";
import { visible } from "./placing";
import type { Wanted } from "./useLook";
import { useLying } from "./view";

type Scopes = Schemas["ScopeData"];
type Kind = "histogram" | "waveform" | "chroma";
const WIDTH = 264;
const HEIGHT = 132;
const COLOURS = ["#d98078", "#86b87b", "#7f9fd6"];
const KINDS = [
  { value: "histogram" as const, text: "histogram", title: "how often each value is there" },
  { value: "waveform" as const, text: "waveform", title: "values across the picture" },
  { value: "chroma" as const, text: "colours", title: "CIE 1931 chromaticity; the triangle is what BT.709 can show" },
];
let sequence = 0;
const viewer = crypto.randomUUID();

/** Scopes of what is seen of the picture, or of what a matte holds of it; they follow while something is dragged. */
export function ScopesPanel() {
  const set = useSession((s) => s.set);
  const [kind, setKind] = useState<Kind>("waveform");
  const scopes = useScopes();
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (context && scopes) DRAWN[kind](context, scopes);
  }, [scopes, kind]);
  return (
    <section
      aria-label="Scopes"
      className="absolute right-2 bottom-2 z-10 w-[282px] cursor-default rounded-sm border border-line bg-panel/95 p-2"
      onPointerDown={(event) => event.stopPropagation()}
      onPointerMove={(event) => event.stopPropagation()}
      onPointerUp={(event) => event.stopPropagation()}
    >
      <div className="mb-1.5 flex items-center gap-1">
        <Segments
          plain
          label="Which scope"
          name="which scope"
          className="flex gap-1"
          choices={KINDS}
          value={kind}
          onPick={setKind}
        />
        <span className="flex-1" />
        <IconButton label="Close the scopes" shortcut="S" look="ghost" onClick={() => set({ scopes: false })}>
          <X size={13} />
        </IconButton>
      </div>
      <canvas
        ref={canvas}
        width={WIDTH * 2}
        height={HEIGHT * 2}
        role="img"
        aria-label={`${kind} of the picture`}
        data-mean={scopes ? scopes.mean.map((value) => value.toFixed(4)).join(" ") : ""}
        className="block h-[132px] w-full rounded-[2px] bg-ground"
      />
      <div className="mt-1 flex gap-2 text-[11px] text-quiet">
        {scopes && (
          <>
            <span className="value" title="mean of linear light">
              {scopes.mean.map((value) => value.toFixed(3)).join("  ")}
            </span>
            <span className="ml-auto">
              {percent(scopes.below)} below 0 · {percent(scopes.above)} above 1
            </span>
          </>
        )}
      </div>
    </section>
  );
}

const percent = (share: number) => `${(share * 100).toFixed(share > 0 && share < 0.1 ? 1 : 0)} %`;

/** The newest scopes of what is looked at, one request at a time. */
function useScopes(): Scopes | null {
  const parts = useSessionParts("saved", "frame", "lookingAt", "standing", "overrides", "playing", "before");
  const { stage, picture, free } = useLying();
  const [found, setFound] = useState<Scopes | null>(null);
  const newest = useRef<Schemas["ScopeOrder"] | null>(null);
  const running = useRef(false);
  const { saved, frame, lookingAt, standing, overrides, playing, before } = parts;
  const { chosen } = useComparisons();
  const then: Partial<Wanted> = (before ? chosen?.other : chosen?.own) ?? {};
  const seen = { lookingAt, overrides, revision: saved?.revision ?? 0, ...then };
  const window = free ? visible(free, stage, picture) : null;
  const order =
    saved && !playing
      ? {
          ...(seen.lookingAt.kind === "pass" ? seen.lookingAt : { kind: "picture" as const, card: standing }),
          revision: seen.revision,
          frame,
          overrides: seen.overrides,
          window,
          without: seen.without,
          off: seen.off,
          matte: mattesOf(lookingAt)[0] ?? null,
          scale: free && free.zoom > 0.8 ? 2 : 4,
        }
      : null;
  const key = JSON.stringify(order);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key is all that is asked, as text
  useEffect(() => {
    if (!order || !saved) return;
    newest.current = { ...order, viewer, sequence: ++sequence } as Schemas["ScopeOrder"];
    const run = async () => {
      if (running.current) return;
      running.current = true;
      while (newest.current) {
        const body = newest.current;
        newest.current = null;
        try {
          const path = { shot_id: saved.id };
          setFound((await answer(api.POST("/api/shots/{shot_id}/scopes", { params: { path }, body }))) as Scopes);
        } catch {
          // overtaken, or the picture cannot be made: the viewer says why
        }
      }
      running.current = false;
    };
    run();
  }, [key]);
  return found;
}

const DRAWN: Record<Kind, (context: CanvasRenderingContext2D, scopes: Scopes) => void> = {
  histogram: (context, { histogram }) => {
    const { width, height } = context.canvas;
    context.clearRect(0, 0, width, height);
    grid(context);
    context.globalCompositeOperation = "lighter";
    histogram.forEach((counts, c) => {
      context.fillStyle = `${COLOURS[c]}99`;
      context.beginPath();
      context.moveTo(0, height);
      counts.forEach((count, i) => {
        context.lineTo(((i + 0.5) / counts.length) * width, height - (count / 255) * height);
      });
      context.lineTo(width, height);
      context.fill();
    });
    context.globalCompositeOperation = "source-over";
  },
  waveform: (context, { waveform }) => {
    const { width, height } = context.canvas;
    context.clearRect(0, 0, width, height);
    const rows = waveform[0]?.length ?? 1;
    const columns = waveform[0]?.[0]?.length ?? 1;
    const image = new ImageData(columns * 3, rows);
    waveform.forEach((plane, c) => {
      const [r, g, b] = [1, 3, 5].map((at) => Number.parseInt((COLOURS[c] ?? "#ffffff").slice(at, at + 2), 16));
      plane.forEach((line, y) => {
        line.forEach((count, x) => {
          const at = (y * columns * 3 + c * columns + x) * 4;
          image.data.set([r ?? 0, g ?? 0, b ?? 0, Math.min(255, count * 3)], at);
        });
      });
    });
    const whole = new OffscreenCanvas(columns * 3, rows);
    whole.getContext("2d")?.putImageData(image, 0, 0);
    context.imageSmoothingEnabled = true;
    context.drawImage(whole, 0, 0, width, height);
    grid(context);
  },
  chroma: (context, { chroma }) => {
    const { width, height } = context.canvas;
    context.clearRect(0, 0, width, height);
    const bins = chroma.length;
    const side = height / bins;
    const left = (width - height) / 2;
    chroma.forEach((line, y) => {
      line.forEach((count, x) => {
        if (!count) return;
        context.fillStyle = `rgb(232 232 229 / ${Math.min(1, 0.15 + count / 160)})`;
        context.fillRect(left + x * side, y * side, side + 0.5, side + 0.5);
      });
    });
    // the primaries and the white of BT.709
    const at = ([x, y]: [number, number]): [number, number] => [left + (x / 0.8) * height, height - (y / 0.9) * height];
    const corners = (
      [
        [0.64, 0.33],
        [0.3, 0.6],
        [0.15, 0.06],
      ] as [number, number][]
    ).map(at);
    context.strokeStyle = "#6a6a6e";
    context.beginPath();
    corners.forEach(([x, y], i) => {
      if (i) context.lineTo(x, y);
      else context.moveTo(x, y);
    });
    context.closePath();
    context.stroke();
    const [wx, wy] = at([0.3127, 0.329]);
    context.strokeRect(wx - 3, wy - 3, 6, 6);
  },
};

function grid(context: CanvasRenderingContext2D): void {
  const { width, height } = context.canvas;
  context.strokeStyle = "#ffffff14";
  for (const t of [0.25, 0.5, 0.75]) {
    context.beginPath();
    context.moveTo(0, t * height);
    context.lineTo(width, t * height);
    context.stroke();
  }
}
