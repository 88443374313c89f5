import { useEffect, useMemo, useRef } from "react";
import { CommentPins } from "../comments/CommentPins";
import { useSession, useSessionParts } from "../session";
import { documentOf } from "../shotParts";
import { useComparisons } from "./compare";
import { GradientLine } from "./GradientLine";
import { Line } from "./Line";
import { Loupe } from "./Loupe";
import { scaleFor } from "./looks";
import { Measured } from "./Measured";
import { PickingHint } from "./PickingHint";
import { PinnedLoupe } from "./PinnedLoupe";
import { PlacingHandles } from "./PlacingHandles";
import { finenessOf, fitted, onStage, visible } from "./placing";
import { ScopesPanel } from "./ScopesPanel";
import { ShapeOverlay } from "./ShapeOverlay";
import { Surface } from "./Surface";
import { TouchMenu } from "./TouchMenu";
import { TreatmentHandles } from "./TreatmentHandles";
import { useLook } from "./useLook";
import { usePlay } from "./usePlay";
import { usePointing } from "./usePointing";
import { offerAt, reachFor } from "./useUnder";
import { ViewerBar } from "./ViewerBar";
import { useLying, useView } from "./view";
import { Wipe } from "./Wipe";

/** The picture: looked at, moved about, probed and touched. */
export function Viewer() {
  const { shot, frame, playing, picking, problem, rank, scopes } = useSessionParts(
    "scopes",
    "shot",
    "frame",
    "playing",
    "picking",
    "problem",
    "rank",
  );
  const { lookingAt, standing, before, wipe, apart, channel, exposure, overrides } = useSessionParts(
    "lookingAt",
    "standing",
    "before",
    "wipe",
    "apart",
    "channel",
    "exposure",
    "overrides",
  );
  const stage = useStage();
  const { stage: size, picture, free } = useLying();
  const placing = free ?? fitted(size, picture);
  const { chosen } = useComparisons();
  const wiped = wipe !== null ? chosen : null;
  const wanted =
    shot && size.width && !playing
      ? {
          shotId: shot.id,
          revision: shot.revision,
          frame,
          lookingAt,
          standing,
          channel,
          exposure,
          overrides,
          zoom: finenessOf(placing),
          window: free ? visible(placing, size, picture) : null,
          ...(before ? chosen?.other : chosen?.own),
          ...(apart && chosen ? { less: chosen.other } : {}),
        }
      : null;
  const { looked, waiting, busy } = useLook(wanted);
  const without = useLook(wanted && wiped ? { ...wanted, ...wiped.other } : null, true);
  const share = wipe ?? 0;
  const beside = useMemo(() => (wiped ? { looked: without.looked, share } : null), [wiped, without.looked, share]);
  const playScale = Math.max(2, scaleFor(finenessOf(placing))) as 2 | 4 | 8;
  usePlay(playScale);
  useEdgesZoom();
  const pointing = usePointing(stage, placing);
  const { found, cursor, touching, gather, draw } = pointing;

  const loupeLeft = cursor ? (cursor[0] > size.width - 290 ? cursor[0] - 270 : cursor[0] + 20) : 0;
  const loupeTop = cursor ? Math.max(4, cursor[1] > size.height - 110 ? cursor[1] - 96 : cursor[1] + 20) : 0;
  return (
    <section className="flex min-h-0 min-w-0 flex-1 flex-col" aria-label="Viewer">
      <ViewerBar zoom={placing.zoom} />
      <div
        ref={stage}
        data-testid="stage"
        role="application"
        aria-roledescription="picture"
        aria-label="The picture: arrow keys move over it, Enter touches what is there"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the keys work on the picture as the mouse does
        tabIndex={0}
        className={`relative min-h-0 flex-1 touch-none overflow-hidden bg-stage focus-visible:outline-offset-[-2px] ${found.under?.offers?.length && !picking ? "cursor-pointer" : "cursor-crosshair"}`}
        {...pointing.on}
      >
        <Surface
          size={size}
          placing={placing}
          picture={picture}
          looked={looked}
          beside={beside}
          busy={busy || (wiped !== null && without.busy)}
          lit={draw.drawing ? null : found.lit}
          playScale={playScale}
        />
        {pointing.byKeys && cursor && <Crosshair at={cursor} />}
        {waiting && (
          <div className="absolute top-2 left-2 rounded-sm bg-panel/90 px-2 py-1 text-quiet" role="status">
            computing…
          </div>
        )}
        {problem && (
          <div
            className="absolute right-3 bottom-3 left-3 rounded-sm border border-coral/60 bg-panel/95 px-3 py-2"
            role="alert"
          >
            <b className="text-coral">Left out: </b>
            {problem}
          </div>
        )}
        {gather.stroke && <Line points={gather.stroke} />}
        {draw.drawing && <Line points={draw.points.map((point) => onStage(placing, point))} to={cursor} dots />}
        {!draw.drawing && !playing && <ShapeOverlay placing={placing} />}
        {!draw.drawing && !playing && !picking && <GradientLine placing={placing} />}
        {!draw.drawing && !playing && !picking && <PlacingHandles placing={placing} />}
        {!draw.drawing && !playing && !picking && !touching && <TreatmentHandles placing={placing} />}
        {!draw.drawing && !playing && <CommentPins placing={placing} />}
        {wiped && !playing && !picking && <Wipe placing={placing} picture={picture} now={wiped.now} was={wiped.was} />}
        {picking && <PickingHint picking={picking} />}
        {scopes && !playing && <ScopesPanel />}
        <Measured />
        <PinnedLoupe placing={placing} size={size} />
        {cursor && pointing.over && found.probe && !touching && !draw.drawing && (
          <Loupe probe={found.probe} under={found.under} rank={rank} left={loupeLeft} top={loupeTop} />
        )}
        {touching && (
          <div onPointerDown={(event) => event.stopPropagation()} onPointerUp={(event) => event.stopPropagation()}>
            <TouchMenu
              {...touching}
              lit={offerAt(touching.under, rank)}
              radius={reachFor(placing.zoom)}
              onClose={pointing.close}
            />
          </div>
        )}
      </div>
    </section>
  );
}

/** Where the keys have moved to. */
const Crosshair = ({ at: [x, y] }: { at: [number, number] }) => (
  <span
    className="pointer-events-none absolute z-10 size-[15px] -translate-1/2 border border-text outline outline-1 outline-ground"
    style={{ left: x, top: y }}
    data-testid="crosshair"
  />
);

/** The stage, measured; how the picture lies on it is kept where keys and looks reach it as well. */
function useStage() {
  const stage = useRef<HTMLDivElement>(null);
  const shot = useSession((s) => s.shot);
  const format = shot ? documentOf(shot).format : null;
  const width = format?.width ?? 16;
  const height = format?.height ?? 9;
  const square = useView((s) => s.square);
  const wide = square ? 1 : (format?.pixel_aspect ?? 1);
  useEffect(
    () => useView.setState({ picture: { width, height, wide }, free: null, kept: null }),
    [width, height, wide],
  );
  useEffect(() => {
    if (!stage.current) return;
    const observer = new ResizeObserver(([entry]) => {
      if (!entry) return;
      const { width: wide, height: high } = entry.contentRect;
      useView.setState({ stage: { width: Math.floor(wide), height: Math.floor(high) } });
    });
    observer.observe(stage.current);
    return () => observer.disconnect();
  }, []);
  return stage;
}

/** Edges are judged pixel by pixel; what comes after them is looked at as before. */
function useEdgesZoom(): void {
  const edges = useSession((s) => s.lookingAt.kind === "edges");
  useEffect(() => {
    if (!edges) return;
    useView.getState().keep();
    return () => useView.getState().giveBack();
  }, [edges]);
}
