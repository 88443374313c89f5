import { useQuery, useQueryClient } from "@tanstack/react-query";
import { ChevronsDown, ChevronsUp } from "lucide-react";
import { Link } from "react-router";
import { answer, api, type Schemas } from "../api/client";
import { IconButton } from "../controls/Button";
import { report } from "../controls/notices";
import { TopBar } from "../controls/TopBar";
import { lasting } from "../controls/time";
import { useTitle } from "../controls/useTitle";
import { RenderRow } from "../handoff/RenderRow";
import { WorkerRow } from "./WorkerRow";

type Queued = Schemas["QueuedRender"];

const ENDED = ["done", "failed", "cancelled"];
const [LOWEST, HIGHEST] = [-9, 9];

/** Renders of all shots in the order in which they are done, and who works at them. */
export function QueuePage() {
  const queries = useQueryClient();
  const query = useQuery({
    queryKey: ["queue"],
    queryFn: () => answer(api.GET("/api/queue")),
    refetchInterval: (q) => (q.state.data?.renders.some((one) => !ENDED.includes(one.state)) ? 1000 : 4000),
  });
  useTitle("Queue");
  const renders = query.data?.renders ?? [];
  const waiting = renders.filter((one) => !ENDED.includes(one.state));
  const ended = renders.filter((one) => ENDED.includes(one.state));
  const workers = (query.data?.workers ?? [])
    .filter((one) => one.here || one.render_id !== null)
    .sort((one, other) => Number(other.here) - Number(one.here));
  const first = Math.max(0, ...waiting.map((one) => one.priority));
  const last = Math.min(0, ...waiting.map((one) => one.priority));
  const put = async (render: Queued, priority: number) => {
    try {
      const path = { render_id: render.id };
      const wanted = Math.min(HIGHEST, Math.max(LOWEST, priority));
      await answer(api.POST("/api/renders/{render_id}/priority", { params: { path }, body: { priority: wanted } }));
      queries.invalidateQueries({ queryKey: ["queue"] });
    } catch (error) {
      report(error);
    }
  };
  const row = (one: Queued) => (
    <RenderRow
      key={one.id}
      render={one}
      inQueue={{
        of: (
          <Link to={`/shots/${one.shot_id}/hand-off`} title={`${one.show}: its hand-off`} className="hover:underline">
            {one.shot}
          </Link>
        ),
        left: leftOf(one),
        extra: !ENDED.includes(one.state) && waiting.length > 1 && (
          <>
            <IconButton label="Before all others" look="ghost" onClick={() => put(one, first + 1)}>
              <ChevronsUp size={14} />
            </IconButton>
            <IconButton label="Behind all others" look="ghost" onClick={() => put(one, last - 1)}>
              <ChevronsDown size={14} />
            </IconButton>
          </>
        ),
      }}
    />
  );
  return (
    <div className="flex h-full flex-col">
      <TopBar>
        <span className="text-quiet">Queue</span>
      </TopBar>
      <div className="flex min-h-0 flex-1">
        <main className="min-w-0 flex-1 overflow-y-auto p-6" aria-label="Renders">
          {query.error && (
            <p role="alert" className="mb-3 text-coral">
              {query.error.message}
            </p>
          )}
          <h2 className="mb-3 text-[15px] font-semibold">To be done</h2>
          {query.data && waiting.length === 0 && (
            <p className="text-quiet">Nothing waits. Renders are ordered from a shot, at its hand-off.</p>
          )}
          <div className="flex flex-col gap-2">{waiting.map(row)}</div>
          {ended.length > 0 && (
            <>
              <h2 className="mt-6 mb-3 text-[15px] font-semibold">Ended today</h2>
              <div className="flex flex-col gap-2">{ended.map(row)}</div>
            </>
          )}
        </main>
        <aside className="w-[270px] shrink-0 overflow-y-auto border-l border-line bg-panel p-4" aria-label="Workers">
          <h2 className="mb-3 text-[15px] font-semibold">Workers</h2>
          {query.data && workers.length === 0 && (
            <p className="text-quiet">
              No worker is here, so nothing is rendered. <code>bin/start</code> starts one on this computer,{" "}
              <code>bin/worker</code> on another.
            </p>
          )}
          <ul className="flex flex-col gap-2">
            {workers.map((one) => (
              <WorkerRow key={one.id} worker={one} render={renders.find((other) => other.id === one.render_id)} />
            ))}
          </ul>
        </aside>
      </div>
    </div>
  );
}

function leftOf(one: Queued): string {
  if (one.state === "paused" || ENDED.includes(one.state)) return "";
  if (one.seconds_left === null) return "";
  const by = one.workers > 1 ? ` with ${one.workers} workers` : "";
  return `${lasting(one.seconds_left)} left${by}`;
}
