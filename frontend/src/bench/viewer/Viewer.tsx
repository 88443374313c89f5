import { type PointerEvent, useCallback, useEffect, useRef, useState, type WheelEvent } from "react";
import { documentOf, useSession } from "../session";
import { Line } from "./Line";
import { Loupe } from "./Loupe";
import { scaleFor } from "./looks";
import { Measured } from "./Measured";
import { PickingHint } from "./PickingHint";
import { PinnedLoupe } from "./PinnedLoupe";
import { pick } from "./picking";
import { centred, fitted, type Placing, type Size, toPicture, visible, zoomedAt } from "./placing";
import { ShapeOverlay } from "./ShapeOverlay";
import { Surface } from "./Surface";
import { TouchMenu } from "./TouchMenu";
import { useDrawing } from "./useDrawing";
import { useGather } from "./useGather";
import { useLook } from "./useLook";
import { usePlay } from "./usePlay";
import { useTouching } from "./useTouching";
import { offerAt, reachFor, useUnder } from "./useUnder";
import { ViewerBar } from "./ViewerBar";

const inside = (at: [number, number], { width, height }: Size): [number, number] | null =>
  at[0] >= 0 && at[1] >= 0 && at[0] < width && at[1] < height ? at : null;

/** The picture: looked at, moved about, probed and touched. */
export function Viewer() {
  const session = useSession();
  const { shot, frame, playing } = session;
  const stage = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState<Size>({ width: 0, height: 0 });
  const [free, setFree] = useState<Placing | null>(null);
  const [cursor, setCursor] = useState<[number, number] | null>(null);
  const { touching, open, close } = useTouching(size);
  const picture: Size = shot ? documentOf(shot).format : { width: 16, height: 9 };
  const placing = free ?? fitted(size, picture);
  const drag = useRef<{ x: number; y: number; from: Placing; moved: boolean } | null>(null);

  useEffect(() => {
    if (!stage.current) return;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: Math.floor(entry.contentRect.width), height: Math.floor(entry.contentRect.height) });
    });
    observer.observe(stage.current);
    return () => observer.disconnect();
  }, []);

  const { looked, waiting } = useLook(
    shot && size.width && !playing
      ? {
          shotId: shot.id,
          revision: shot.revision,
          frame,
          lookingAt: session.lookingAt,
          standing: session.standing,
          without: session.before ? (session.openTreatment ?? undefined) : undefined,
          channel: session.channel,
          exposure: session.exposure,
          overrides: session.overrides,
          zoom: placing.zoom,
          window: free ? visible(placing, size, picture) : null,
        }
      : null,
  );
  const playScale = Math.max(2, scaleFor(placing.zoom)) as 2 | 4 | 8;
  usePlay(playScale);
  const at = cursor && !playing ? toPicture(placing, cursor[0], cursor[1]) : null;
  const over = at && inside(at, picture);
  const gather = useGather();
  const draw = useDrawing();
  const { picking } = session;
  const found = useUnder(over, placing.zoom, touching !== null || draw.drawing || drag.current?.moved === true);

  const fit = useCallback(() => setFree(null), []);
  const oneToOne = useCallback(() => setFree(centred(size, picture, 1 / window.devicePixelRatio)), [size, picture]);
  useEffect(() => {
    window.addEventListener("umbrax:fit", fit);
    window.addEventListener("umbrax:one-to-one", oneToOne);
    return () => {
      window.removeEventListener("umbrax:fit", fit);
      window.removeEventListener("umbrax:one-to-one", oneToOne);
    };
  }, [fit, oneToOne]);
  const under = useRef(over);
  under.current = over;
  useEffect(() => {
    const pin = () => useSession.getState().set({ pinned: under.current });
    window.addEventListener("umbrax:pin", pin);
    return () => window.removeEventListener("umbrax:pin", pin);
  }, []);

  const where = (event: PointerEvent | WheelEvent): [number, number] => {
    const box = stage.current?.getBoundingClientRect();
    return [event.clientX - (box?.left ?? 0), event.clientY - (box?.top ?? 0)];
  };
  const wheel = (event: WheelEvent) => {
    const [x, y] = where(event);
    setFree(zoomedAt(placing, 2 ** (-event.deltaY / 300), x, y));
  };
  const down = (event: PointerEvent<HTMLDivElement>) => {
    if (touching) {
      close();
      return;
    }
    const [x, y] = where(event);
    if (event.shiftKey && !picking) gather.begin([x, y], inside(toPicture(placing, x, y), picture), event.altKey);
    else drag.current = { x, y, from: placing, moved: false };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const move = (event: PointerEvent<HTMLDivElement>) => {
    const [x, y] = where(event);
    setCursor([x, y]);
    if (gather.stroke) gather.extend([x, y], inside(toPicture(placing, x, y), picture));
    const start = drag.current;
    if (!start) return;
    if (!start.moved && Math.hypot(x - start.x, y - start.y) < 4) return;
    start.moved = true;
    setFree({ zoom: start.from.zoom, x: start.from.x + x - start.x, y: start.from.y + y - start.y });
  };
  const up = (event: PointerEvent<HTMLDivElement>) => {
    if (gather.stroke) {
      gather.finish(reachFor(placing.zoom));
      return;
    }
    const start = drag.current;
    drag.current = null;
    if (!start || start.moved || playing || event.button !== 0) return;
    const [x, y] = where(event);
    const spot = inside(toPicture(placing, x, y), picture);
    if (draw.drawing) {
      draw.add([(x - placing.x) / placing.zoom, (y - placing.y) / placing.zoom], placing.zoom);
    } else if (picking) {
      if (spot) pick(picking, spot);
    } else if (spot && session.lookingAt.kind === "leaks") {
      session.set({ lookingAt: { ...session.lookingAt, at: spot } });
    } else if (spot) open(found, placing.zoom, spot, [x, y]);
  };
  const loupeLeft = cursor ? (cursor[0] > size.width - 290 ? cursor[0] - 270 : cursor[0] + 20) : 0;
  const loupeTop = cursor ? Math.max(4, cursor[1] > size.height - 110 ? cursor[1] - 96 : cursor[1] + 20) : 0;
  return (
    <section className="flex min-h-0 min-w-0 flex-1 flex-col" aria-label="Viewer">
      <ViewerBar zoom={placing.zoom} onFit={fit} onOneToOne={oneToOne} fits={free === null} />
      <div
        ref={stage}
        data-testid="stage"
        className={`relative min-h-0 flex-1 touch-none overflow-hidden bg-stage ${found.under?.offers?.length && !picking ? "cursor-pointer" : "cursor-crosshair"}`}
        onWheel={wheel}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerLeave={() => setCursor(null)}
      >
        <Surface
          size={size}
          placing={placing}
          picture={picture}
          looked={looked}
          lit={draw.drawing ? null : found.lit}
          playScale={playScale}
        />
        {waiting && (
          <div className="absolute top-2 left-2 rounded-sm bg-panel/90 px-2 py-1 text-quiet" role="status">
            computing…
          </div>
        )}
        {session.problem && (
          <div
            className="absolute right-3 bottom-3 left-3 rounded-sm border border-coral/60 bg-panel/95 px-3 py-2"
            role="alert"
          >
            <b className="text-coral">Left out: </b>
            {session.problem}
          </div>
        )}
        {gather.stroke && <Line points={gather.stroke} />}
        {draw.drawing && (
          <Line
            points={draw.points.map(([x, y]) => [placing.x + x * placing.zoom, placing.y + y * placing.zoom])}
            to={cursor}
            dots
          />
        )}
        {!draw.drawing && !playing && <ShapeOverlay placing={placing} />}
        {picking && <PickingHint picking={picking} />}
        <Measured />
        <PinnedLoupe placing={placing} size={size} />
        {cursor && over && found.probe && !touching && !draw.drawing && (
          <Loupe probe={found.probe} under={found.under} rank={session.rank} left={loupeLeft} top={loupeTop} />
        )}
        {touching && (
          <div onPointerDown={(event) => event.stopPropagation()} onPointerUp={(event) => event.stopPropagation()}>
            <TouchMenu
              {...touching}
              lit={offerAt(touching.under, session.rank)}
              radius={reachFor(placing.zoom)}
              onClose={close}
            />
          </div>
        )}
      </div>
    </section>
  );
}
