import type { Schemas } from "../api/client";
import { counted } from "../controls/counted";
import { ago } from "../controls/time";

type Props = { worker: Schemas["WorkerData"]; render: Schemas["QueuedRender"] | undefined };

/** A worker: whether it is here, what it does, and how fast it has been. */
export function WorkerRow({ worker, render }: Props) {
  const doing = worker.checkup
    ? "examining a source"
    : worker.render_id !== null
      ? `frame ${worker.frame} of ${render?.shot ?? `render ${worker.render_id}`}`
      : worker.elsewhere
        ? "working at another show"
        : "waiting for work";
  const busy = worker.render_id !== null || worker.checkup || worker.elsewhere;
  return (
    <li aria-label={worker.name} className="rounded-sm border border-line px-3 py-2">
      <div className="flex items-center gap-2">
        <span
          aria-hidden
          className={`h-2 w-2 shrink-0 rounded-full ${!worker.here ? "bg-coral" : busy ? "bg-verdigris" : "bg-faint"}`}
        />
        <b className="truncate" title={worker.name}>
          {worker.name}
        </b>
      </div>
      <p className={worker.here ? "" : "text-coral"}>{worker.here ? doing : `last heard of ${ago(worker.seen_at)}`}</p>
      <p className="value text-quiet">{counted(worker.threads, "thread")}</p>
      {worker.seconds_a_frame !== null && (
        <p className="value text-quiet">
          {counted(worker.frames, "frame")}, {worker.seconds_a_frame.toFixed(2)} s each
        </p>
      )}
    </li>
  );
}
