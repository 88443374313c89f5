import { useEffect, useRef } from "react";
import { useSession } from "../session";
import { useReady } from "./frames";
import type { Looked } from "./looks";
import { onStage, type Placing, type Size, stretched } from "./placing";
import type { Lit } from "./useUnder";

type SurfaceProps = {
  size: Size;
  placing: Placing;
  picture: Size;
  looked: Looked | null;
  /** What is shown in its place on the left, as far as a share of the width. */
  beside: { looked: Looked | null; share: number } | null;
  busy: boolean;
  lit: Lit | null;
  playScale: number;
};

/** Draws the picture where it is placed, and the light over what is under the cursor. */
export function Surface({ size, placing, picture, looked, beside, busy, lit, playScale }: SurfaceProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const playing = useSession((s) => s.playing);
  const frame = useSession((s) => s.frame);
  const ready = useReady((s) => s.version);
  const ratio = window.devicePixelRatio;

  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn anew when another frame is ready
  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!context) return;
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, size.width, size.height);
    context.imageSmoothingEnabled = placing.zoom < 2;
    context.imageSmoothingQuality = "high";
    const draw = (bitmap: ImageBitmap, x: number, y: number, n: number) => {
      context.drawImage(
        bitmap,
        ...onStage(placing, [x * n, y * n]),
        ...stretched(placing, [bitmap.width * n, bitmap.height * n]),
      );
    };
    context.save();
    context.beginPath();
    context.rect(placing.x, placing.y, ...stretched(placing, [picture.width, picture.height]));
    context.clip();
    context.fillStyle = "#000";
    context.fill();
    const played = playing ? useReady.getState().frames.get(frame) : undefined;
    if (played) draw(played, 0, 0, playScale);
    else if (looked) draw(looked.bitmap, looked.window[0], looked.window[1], looked.scale);
    if (beside?.looked && !playing) {
      context.save();
      context.beginPath();
      context.rect(placing.x, placing.y, ...stretched(placing, [beside.share * picture.width, picture.height]));
      context.clip();
      const { bitmap, window: at, scale } = beside.looked;
      draw(bitmap, at[0], at[1], scale);
      context.restore();
    }
    if (lit && !playing) draw(lit.bitmap, lit.x, lit.y, 1);
    context.restore();
  }, [size, placing, picture, looked, beside, lit, playing, frame, ready, ratio, playScale]);

  return (
    <canvas
      ref={canvas}
      data-testid="picture"
      aria-busy={busy}
      data-drawn={looked ? `${looked.scale}` : ""}
      width={size.width * ratio}
      height={size.height * ratio}
      style={{ width: size.width, height: size.height }}
    />
  );
}
