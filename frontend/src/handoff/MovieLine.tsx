import { Play } from "lucide-react";
import { useState } from "react";
import type { RenderData } from "../api/client";
import { Button } from "../controls/Button";
import { megabytes } from "../controls/time";
import { includes } from "../people/useMe";
import { FetchLink } from "./FetchLink";
import { MovieView } from "./MovieView";

/** The movie of a render: how far it is, and watching and fetching it. */
export function MovieLine({ render }: { render: RenderData }) {
  const [watching, setWatching] = useState(false);
  const movie = render.movie;
  if (!movie) return null;
  const whole = movie.bytes !== null;
  const told = whole
    ? megabytes(movie.bytes ?? 0)
    : render.state !== "running"
      ? "not made yet"
      : render.done.length < render.total
        ? "made when all frames are there"
        : `${movie.joined} of ${render.total} frames are in it`;
  return (
    <div className="mt-2.5 flex items-center gap-4 border-t border-line pt-2.5">
      {watching && <MovieView render={render} onClose={() => setWatching(false)} />}
      <span className="w-24 shrink-0 text-quiet">movie</span>
      <div className="value flex min-w-0 flex-1 gap-x-4 text-quiet [&>span]:whitespace-nowrap">
        <span className="truncate text-text">{movie.file_name}</span>
        <span>{movie.words}</span>
        <span>{told}</span>
      </div>
      {whole && (
        <div className="flex justify-end gap-1.5">
          {movie.kind === "h264" && (
            <Button onClick={() => setWatching(true)}>
              <Play size={13} /> Watch
            </Button>
          )}
          {includes(render.role, "hand off") && (
            <FetchLink address={`/api/renders/${render.id}/download-movie`} title="fetch the movie">
              Fetch
            </FetchLink>
          )}
        </div>
      )}
    </div>
  );
}
