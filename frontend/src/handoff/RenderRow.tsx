import { useQueryClient } from "@tanstack/react-query";
import { Film, Pause, RotateCw, X } from "lucide-react";
import { type ReactNode, useState } from "react";
import { answer, api, type RenderData } from "../api/client";
import { Button, IconButton } from "../controls/Button";
import { counted } from "../controls/counted";
import { Menu } from "../controls/Menu";
import { report } from "../controls/notices";
import { ProgressBar } from "../controls/ProgressBar";
import { ago, frameSpan, megabytes } from "../controls/time";
import { includes } from "../people/useMe";
import { FetchLink } from "./FetchLink";
import { MovieLine } from "./MovieLine";
import { MOVIES, type MovieKind } from "./movies";
import { StillView, stillAddress } from "./StillView";

const STATES: Record<RenderData["state"], string> = {
  queued: "waiting",
  running: "rendering",
  paused: "resting",
  done: "done",
  failed: "failed",
  cancelled: "cancelled",
};

/** Where a render stands among all: of which shot it is, and when it will be done. */
type InQueue = { of: ReactNode; left: string; extra: ReactNode };

/** One render: how far it is, and what can be done with it. */
export function RenderRow({ render, inQueue }: { render: RenderData; inQueue?: InQueue }) {
  const queries = useQueryClient();
  const [looking, setLooking] = useState(false);
  // a bake belongs to working on a shot
  const may = includes(render.role, render.what.endsWith(", baked") ? "work" : "hand off");
  const active = render.state === "queued" || render.state === "running";
  const done = render.done.length;
  const resumed = render.state === "failed" || render.state === "cancelled" || render.state === "paused";
  const joining = render.state === "running" && render.movie !== null && done === render.total;
  const params = { path: { render_id: render.id } };
  const act = (what: "cancel" | "retry" | "pause") => change(api.POST(`/api/renders/{render_id}/${what}`, { params }));
  const join = (movie: MovieKind) => change(api.POST("/api/renders/{render_id}/movie", { params, body: { movie } }));
  const change = async (asked: Parameters<typeof answer>[0]) => {
    try {
      await answer(asked);
      queries.invalidateQueries({ queryKey: ["renders", render.shot_id] });
      queries.invalidateQueries({ queryKey: ["queue"] });
    } catch (error) {
      report(error);
    }
  };
  const address =
    render.total === 1 && render.files === 1
      ? `/api/renders/${render.id}/frames/${render.first}`
      : `/api/renders/${render.id}/download`;
  const tones: Partial<Record<RenderData["state"], string>> = {
    done: "text-verdigris",
    failed: "text-coral",
    cancelled: "text-amber",
    paused: "text-amber",
  };
  const tone = tones[render.state] ?? "";
  return (
    <article
      className="rounded-sm border border-line bg-panel px-4 py-3"
      aria-label={`Render ${render.id}`}
      data-state={render.state}
    >
      {looking && <StillView render={render} onClose={() => setLooking(false)} />}
      <div className="flex items-center gap-4">
        <button
          type="button"
          aria-label={`Look at render ${render.id}`}
          title={done ? "look at the written frames" : "no frame is written yet"}
          disabled={done === 0}
          onClick={() => setLooking(true)}
          className="h-[54px] w-24 shrink-0 overflow-hidden rounded-[2px] bg-stage"
        >
          {render.done[0] !== undefined && (
            <img src={stillAddress(render, render.done[0])} alt="" className="h-full w-full object-contain" />
          )}
        </button>
        <div className="min-w-0 flex-1">
          <div className="flex items-baseline gap-3 whitespace-nowrap">
            {inQueue?.of}
            <b>{render.what}</b>
            <span className="value truncate text-quiet">{render.file_name}</span>
          </div>
          <div className="value flex gap-x-4 flex-wrap pt-0.5 text-quiet [&>span]:whitespace-nowrap">
            <span>{frameSpan(render.first, render.last)}</span>
            <span>
              {render.width}×{render.height}
            </span>
            <span>{render.type === "half" || render.type === "float" ? render.type : `${render.type} bit`}</span>
            {render.space === "lin_ap1" && <span>ACEScg</span>}
            <span>revision {render.revision}</span>
            {render.bytes > 0 && <span>{megabytes(render.bytes)}</span>}
            {done > 0 && <span>{(render.seconds / done).toFixed(2)} s a frame</span>}
            <span>
              {ago(render.created_at)}
              {render.ordered_by && ` by ${render.ordered_by}`}
            </span>
            {render.failed.length > 0 && (
              <span className="text-coral">{counted(render.failed.length, "frame")} failed</span>
            )}
            {inQueue?.left && <span className="text-text">{inQueue.left}</span>}
          </div>
        </div>
        <span className={`w-20 text-right ${tone}`}>
          {render.cancelling ? "stopping" : joining ? "joining" : STATES[render.state]}
        </span>
        <span className="value w-14 text-right">
          {done}/{render.total}
        </span>
        <div className={`flex justify-end gap-1.5 ${inQueue ? "w-[216px]" : "w-[150px]"}`}>
          {may && inQueue?.extra}
          {may && active && (
            <IconButton
              label="Let it rest: whole frames stay, and it goes on when asked to"
              onClick={() => act("pause")}
            >
              <Pause size={13} />
            </IconButton>
          )}
          {may && resumed && (
            <Button
              title={render.failed.length ? "do the frames that failed again" : "do the frames that are missing"}
              onClick={() => act("retry")}
            >
              <RotateCw size={13} /> {done || render.state === "paused" ? "Go on" : "Try again"}
            </Button>
          )}
          {may && (active || render.state === "paused") && (
            <Button onClick={() => act("cancel")}>
              <X size={13} /> Cancel
            </Button>
          )}
          {includes(render.role, "hand off") && render.state === "done" && render.joinable && (
            <Menu
              trigger={
                <IconButton label={render.movie ? "Make another movie of it" : "Make a movie of it"}>
                  <Film size={13} />
                </IconButton>
              }
              sections={[{ choices: MOVIES.map(([kind, label]) => ({ key: kind, label, onPick: () => join(kind) })) }]}
            />
          )}
          {includes(render.role, "hand off") && done > 0 && !active && render.state !== "paused" && (
            <FetchLink address={address} title={render.total === 1 ? "fetch the frame" : "fetch all frames as one zip"}>
              Fetch
            </FetchLink>
          )}
        </div>
      </div>
      <div className="mt-2.5">
        <ProgressBar
          label="Progress"
          done={joining ? (render.movie?.joined ?? 0) : done}
          total={render.total}
          failed={render.state === "failed"}
        />
      </div>
      <MovieLine render={render} />
      {render.note && <p className="mt-2 text-quiet">{render.note}</p>}
      {render.message && (
        <p role="alert" className="mt-2 text-coral">
          {render.message}
        </p>
      )}
    </article>
  );
}
