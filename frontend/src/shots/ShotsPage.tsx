import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { answer, api, type Schemas } from "../api/client";
import { report } from "../bench/session";
import { thumbAddress } from "../bench/viewer/looks";
import { Button, ButtonLink } from "../controls/Button";
import { Mark } from "../controls/Mark";
import { Thumb } from "../controls/Thumb";
import { ago } from "../controls/time";

export function ShotsPage() {
  const query = useQuery({ queryKey: ["shows"], queryFn: () => answer(api.GET("/api/shows")), refetchInterval: 15000 });
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-10 items-center gap-3 border-b border-line bg-panel px-3">
        <Mark />
        <b className="text-[13px]">Umbrax</b>
        <span className="text-quiet">Shots</span>
        <span className="flex-1" />
        <ButtonLink look="primary" to="/take-in">
          Take in
        </ButtonLink>
      </header>
      <main className="flex-1 overflow-auto px-8 py-6">
        {query.isPending && <p className="text-quiet">Reading the shots…</p>}
        {query.error && (
          <div role="alert" className="flex items-center gap-3 text-coral">
            {query.error.message}
            <Button onClick={() => query.refetch()}>Try again</Button>
          </div>
        )}
        {query.data?.shows.map((show) => (
          <Show key={show.id} show={show} />
        ))}
        {query.data?.shows.length === 0 && (
          <p className="text-quiet">
            There are no shows yet.{" "}
            <Link to="/take-in" className="text-verdigris underline">
              Take in
            </Link>{" "}
            a render to make the first one, or run <code className="value">bin/start</code> once to bring in the demo.
          </p>
        )}
      </main>
    </div>
  );
}

function Show({ show }: { show: Schemas["ShowSummary"] }) {
  return (
    <section className="mb-8" aria-label={show.name}>
      <h2 className="mb-3 flex items-baseline gap-3">
        <span className="text-[15px] font-semibold">{show.name}</span>
        <span className="text-quiet">
          {show.shots.length} {show.shots.length === 1 ? "shot" : "shots"} · {show.sources} sources
        </span>
      </h2>
      <div className="grid grid-cols-[repeat(auto-fill,minmax(520px,1fr))] gap-5">
        {show.shots.map((shot) =>
          shot.problem ? <BrokenTile key={shot.id} shot={shot} /> : <ShotTile key={shot.id} shot={shot} />,
        )}
      </div>
    </section>
  );
}

/** A shot whose document cannot be read: what is wrong, and the way back to what it was before. */
function BrokenTile({ shot }: { shot: Schemas["ShotSummary"] }) {
  const queries = useQueryClient();
  const goBack = async () => {
    try {
      await answer(
        api.POST("/api/shots/{shot_id}/undo", {
          params: { path: { shot_id: shot.id } },
          body: { tab: "", force: true },
        }),
      );
      queries.invalidateQueries({ queryKey: ["shows"] });
    } catch (error) {
      report(error);
    }
  };
  return (
    <article className="flex flex-col gap-2 rounded-sm border border-coral bg-panel p-3" aria-label={shot.name}>
      <b className="text-[13.5px]">{shot.name}</b>
      <p role="alert" className="text-coral">
        {shot.problem?.replace(/^t/, "T")}
      </p>
      <p className="text-quiet">Nothing of it is lost: what it was before revision {shot.revision} is still there.</p>
      <Button className="mt-auto self-start" onClick={goBack}>
        Go back before revision {shot.revision}
      </Button>
    </article>
  );
}

function ShotTile({ shot }: { shot: Schemas["ShotSummary"] }) {
  return (
    <Link
      to={`/shots/${shot.id}`}
      className="group block overflow-hidden rounded-sm border border-line bg-panel hover:border-faint"
    >
      <div className="bg-stage" style={{ aspectRatio: `${shot.width} / ${shot.height}` }}>
        <Thumb
          address={thumbAddress(shot.id, { kind: "picture", revision: shot.revision, frame: shot.poster, scale: 2 })}
          alt={`${shot.name}, frame ${shot.poster}`}
          className="h-full w-full object-cover"
        />
      </div>
      <div className="flex items-baseline gap-3 px-3 pt-2.5">
        <b className="text-[13.5px]">{shot.name}</b>
        <span className="ml-auto text-quiet">{ago(shot.changed_at)}</span>
      </div>
      <div className="value flex gap-3 px-3 pt-1 pb-3 text-quiet">
        <span>
          {shot.first}–{shot.last}
        </span>
        <span>
          {shot.width}×{shot.height} · {shot.fps} fps
        </span>
        {shot.findings > 0 && (
          <span className="text-amber">
            {shot.findings} {shot.findings === 1 ? "finding" : "findings"}
          </span>
        )}
        <span className="ml-auto">
          {shot.cards} cards · revision {shot.revision}
        </span>
      </div>
    </Link>
  );
}
