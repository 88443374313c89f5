import { Pause, Play } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { RenderData } from "../api/client";
import { IconButton } from "../controls/Button";
import { DialogFrame } from "../controls/DialogFrame";
import { frameSpan } from "../controls/time";
import { WindowHead } from "./WindowHead";

/** Plays the movie of a render as it was written, and steps through it by the numbers of its frames. */
export function MovieView({ render, onClose }: { render: RenderData; onClose: () => void }) {
  // the window's content comes a moment after this does
  const [film, setFilm] = useState<HTMLVideoElement | null>(null);
  const [index, setIndex] = useState(0);
  // where it was last sent to, or has played to: keys come faster than frames are shown
  const standing = useRef(0);
  const [playing, setPlaying] = useState(true);
  const fps = render.movie?.fps ?? 24;
  const last = render.done.length - 1;
  useEffect(() => {
    if (!film) return;
    let asked = 0;
    const show = (at: number) => {
      setIndex(at);
      if (!film.seeking) standing.current = at;
    };
    const shown = (_: number, { mediaTime }: VideoFrameCallbackMetadata) => {
      // once it stands, what is told of frames comes late, or not at all
      if (!film.paused) show(Math.min(last, Math.round(mediaTime * fps)));
      asked = film.requestVideoFrameCallback(shown);
    };
    const stood = () => show(Math.min(last, Math.floor(film.currentTime * fps)));
    asked = film.requestVideoFrameCallback(shown);
    film.addEventListener("seeked", stood);
    film.addEventListener("pause", stood);
    return () => {
      film.cancelVideoFrameCallback(asked);
      film.removeEventListener("seeked", stood);
      film.removeEventListener("pause", stood);
    };
  }, [film, fps, last]);
  const toggle = () => {
    if (film?.paused) film.play();
    else film?.pause();
  };
  const stand = (at: number) => {
    if (!film) return;
    film.pause();
    // what loops would begin anew when it is sent to its last frame once more
    film.loop = false;
    // in the middle of a frame, where no rounding leads to its neighbour
    standing.current = Math.min(last, Math.max(0, at));
    film.currentTime = (standing.current + 0.5) / fps;
  };
  return (
    <DialogFrame
      shape="whole"
      onClose={onClose}
      onKeyDown={(event) => {
        if (event.target instanceof HTMLButtonElement) return;
        const at = standing.current;
        const places: Record<string, number> = { ArrowLeft: at - 1, ArrowRight: at + 1, Home: 0, End: last };
        const to = places[event.key];
        if (event.key === " ") toggle();
        else if (to !== undefined) stand(to);
        else return;
        event.preventDefault();
      }}
    >
      <WindowHead
        title={render.what}
        told={`${render.movie?.file_name} · revision ${render.revision} · ${Number(fps.toFixed(3))} fps`}
        onClose={onClose}
      />
      <div className="min-h-0 flex-1 bg-stage p-3">
        <video
          ref={setFilm}
          src={`/api/renders/${render.id}/watch?size=${render.movie?.bytes}`}
          aria-label={`${render.what} as a movie`}
          className="h-full w-full object-contain"
          onPlay={(event) => {
            event.currentTarget.loop = true;
            setPlaying(true);
          }}
          onPause={() => setPlaying(false)}
          autoPlay
          muted
        />
      </div>
      <div className="flex h-11 shrink-0 items-center gap-3 border-t border-line px-4">
        <IconButton label={playing ? "Pause" : "Play"} shortcut="Space" onClick={toggle}>
          {playing ? <Pause size={14} /> : <Play size={14} />}
        </IconButton>
        <span className="value w-12" data-testid="film-frame">
          {render.done[index]}
        </span>
        <input
          type="range"
          aria-label="Frame of the movie"
          aria-valuetext={`frame ${render.done[index]}`}
          min={0}
          max={last}
          value={index}
          onChange={(event) => stand(Number(event.target.value))}
          className="min-w-0 flex-1 accent-verdigris"
        />
        <span className="value text-quiet">{frameSpan(render.first, render.last)}</span>
      </div>
    </DialogFrame>
  );
}
