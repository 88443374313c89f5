import { useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { Button, ButtonLink } from "../controls/Button";
import { report } from "../controls/notices";
import { SearchInput } from "../controls/SearchInput";
import { Segments } from "../controls/Segments";
import { TopBar } from "../controls/TopBar";
import { useTitle } from "../controls/useTitle";
import { includes, maySomewhere, useMe } from "../people/useMe";
import { useDropHere } from "../takein/dropping";
import { nameOfFiles } from "../takein/naming";
import { Sending } from "../takein/Sending";
import { takeIn } from "../takein/uploading";
import { useBringing } from "../takein/useBringing";
import { Deleted } from "./Deleted";
import { NewShow } from "./NewShow";
import { Nothing } from "./Nothing";
import { ShowSection } from "./ShowSection";
import { TakeInDialog, type Wish } from "./TakeInDialog";
import { type TileSize, useTileSize } from "./tiles";
import { type Show, useOrdering, useShows } from "./useShows";

const SIZES: { value: TileSize; text: string; title: string }[] = [
  { value: "small", text: "small", title: "as many shots at a glance as there can be" },
  { value: "middle", text: "middle", title: "some twenty shots at a glance" },
  { value: "large", text: "large", title: "large pictures" },
];

/** The shows and their shots; one show by itself where its address is open. */
export function ShotsPage() {
  const { showId } = useParams();
  const query = useShows();
  const ordering = useOrdering();
  const navigate = useNavigate();
  const { size, setSize } = useTileSize();
  const me = useMe().data;
  const [search, setSearch] = useState("");
  const [wish, setWish] = useState<Wish | null>(null);
  const onto = useRef<string | null>(null);
  const all = query.data?.shows ?? [];
  const open = showId ? all.find((show) => show.id === Number(showId)) : undefined;
  useTitle(open?.name, "Shots");

  const { sending, bring, stop } = useBringing(async (folder, files) => {
    const wanted: Wish = { folder, shot: nameOfFiles(files), show: onto.current ?? open?.name ?? null };
    // a drop joins the show that it fell on, or that is open; otherwise it is asked for
    if (wanted.show === null) {
      setWish(wanted);
      return;
    }
    const made = await takeIn(wanted.show, "", [folder]);
    ordering.refresh();
    navigate(`/shots/${made.id}/passes`);
  });
  useDropHere(
    open ? `Take in as a shot of ${open.name}` : "Take in as a shot of the show it falls on",
    (files, place) => {
      onto.current = place?.closest("[data-show]")?.getAttribute("data-show") ?? null;
      bring(files).catch(report);
    },
  );

  const shown = (open ? [open] : all).map((show) => found(show, search)).filter((one) => one !== null);
  const empty = query.data !== undefined && all.length === 0;
  return (
    <div className="flex h-full flex-col">
      <TopBar>
        {open ? (
          <>
            <Link to="/" className="text-quiet hover:text-text">
              All shows
            </Link>
            <span className="text-faint">/</span>
            <span>{open.name}</span>
          </>
        ) : (
          <span className="text-quiet">Shots</span>
        )}
        <span className="flex-1" />
        {!empty && (
          <>
            <SearchInput
              label="Search shows, shots and sources"
              placeholder="search shows, shots, sources"
              value={search}
              onSearch={setSearch}
              className="h-[26px] w-56"
            />
            <Segments
              label="Size of the pictures"
              name="tile size"
              choices={SIZES}
              value={size}
              onPick={setSize}
              plain
            />
            {maySomewhere(me, "own") && <NewShow onName={ordering.addShow} />}
          </>
        )}
        <ButtonLink to="/queue">Queue</ButtonLink>
        {(open ? includes(open.role, "work") : maySomewhere(me, "work")) && (
          <ButtonLink look="primary" to={open ? `/take-in?show=${encodeURIComponent(open.name)}` : "/take-in"}>
            Take in
          </ButtonLink>
        )}
      </TopBar>
      <main className="flex-1 overflow-auto px-6 py-4" aria-label="Shots">
        {sending && <Sending state={sending} onStop={stop} />}
        {query.isPending && <p className="text-quiet">Reading the shots…</p>}
        {query.error && (
          <div role="alert" className="flex items-center gap-3 text-coral">
            {query.error.message}
            <Button onClick={() => query.refetch()}>Try again</Button>
          </div>
        )}
        {showId && query.data && !open && (
          <p className="text-quiet">
            There is no such show (any more).{" "}
            <Link to="/" className="text-verdigris underline">
              All shows
            </Link>
          </p>
        )}
        {shown.map((show) => (
          <ShowSection key={show.id} show={show} shows={all} size={size} alone={open !== undefined} />
        ))}
        {search && shown.length === 0 && all.length > 0 && (
          <p className="text-quiet">
            Nothing is called “{search}”: no show, no shot and no source.{" "}
            <button type="button" className="text-verdigris underline" onClick={() => setSearch("")}>
              Show all
            </button>
          </p>
        )}
        {empty && me?.admin && <Nothing onDemo={ordering.demo} onShow={ordering.addShow} />}
        {empty && me && !me.admin && (
          <p className="mx-auto mt-10 max-w-md text-quiet">
            No show is open to you yet. Whoever owns one, or looks after this server, can let you in under{" "}
            <b>People and roles</b>.
          </p>
        )}
        {query.data && !open && query.data.deleted.length > 0 && <Deleted deleted={query.data.deleted} />}
      </main>
      {wish && (
        <TakeInDialog
          wish={wish}
          shows={all.map((show) => show.name)}
          onClose={() => setWish(null)}
          onMade={(id) => {
            ordering.refresh();
            navigate(`/shots/${id}/passes`);
          }}
        />
      )}
    </div>
  );
}

/** A show with the shots that a search finds; all of them where it is the show that is found, null where nothing is. */
function found(show: Show, search: string): Show | null {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  if (!words.length) return show;
  const holds = (text: string) => words.every((word) => text.toLowerCase().includes(word));
  if (holds(show.name)) return show;
  const shots = show.shots.filter((shot) => holds([show.name, shot.name, ...shot.sources].join(" ")));
  return shots.length ? { ...show, shots } : null;
}
