import { Ellipsis } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { IconButton } from "../controls/Button";
import { counted } from "../controls/counted";
import { Menu } from "../controls/Menu";
import { NameInput } from "../controls/NameInput";
import { includes } from "../people/useMe";
import { BrokenTile } from "./BrokenTile";
import { ShotTile } from "./ShotTile";
import { GRIDS, type TileSize } from "./tiles";
import { type Show, useOrdering } from "./useShows";

type Props = { show: Show; shows: Show[]; size: TileSize; alone: boolean };

/** A show: its name, what can be done with it, and its shots. Files that are dropped on it become a shot of it. */
export function ShowSection({ show, shows, size, alone }: Props) {
  const { renameShow, deleteShow } = useOrdering();
  const navigate = useNavigate();
  const [naming, setNaming] = useState(false);
  const [works, owns] = [includes(show.role, "work"), includes(show.role, "own")];
  return (
    <section className="mb-5" aria-label={show.name} data-show={show.name}>
      <h2 className="mb-2 flex items-center gap-2.5">
        {naming ? (
          <NameInput
            label="Name of the show"
            className="h-7 w-64 bg-control font-semibold text-[15px]"
            name={show.name}
            autoFocus
            onName={(name) => renameShow(show.id, name)}
            onDone={() => setNaming(false)}
          />
        ) : (
          <Link to={`/shows/${show.id}`} className="font-semibold text-[15px] hover:text-verdigris">
            {show.name}
          </Link>
        )}
        <span className="text-quiet">
          {counted(show.shots.length, "shot")} · {counted(show.sources, "source")}
        </span>
        <Menu
          trigger={
            <IconButton label={`Show ${show.name}`} look="ghost" className="h-[22px]! w-[22px]!">
              <Ellipsis size={14} />
            </IconButton>
          }
          sections={[
            {
              choices: [
                ...(alone
                  ? []
                  : [{ key: "open", label: "Open it alone", onPick: () => navigate(`/shows/${show.id}`) }]),
                ...(owns ? [{ key: "name", label: "Rename it", onPick: () => setNaming(true) }] : []),
                ...(works
                  ? [
                      {
                        key: "take in",
                        label: "Take in a shot…",
                        onPick: () => navigate(`/take-in?show=${encodeURIComponent(show.name)}`),
                      },
                    ]
                  : []),
                ...(owns ? [{ key: "people", label: "People and roles", onPick: () => navigate("/people") }] : []),
              ],
            },
            {
              choices: owns
                ? [{ key: "delete", label: "Delete it", danger: true, onPick: () => deleteShow(show) }]
                : [],
            },
          ]}
        />
      </h2>
      {show.shots.length === 0 ? (
        <p className="rounded-sm border border-line border-dashed px-4 py-5 text-quiet">
          No shots yet
          {works && (
            <>
              : drop a render here, or{" "}
              <Link to={`/take-in?show=${encodeURIComponent(show.name)}`} className="text-verdigris underline">
                take one in
              </Link>{" "}
              from a media folder
            </>
          )}
          .
        </p>
      ) : (
        <div className={`grid ${GRIDS[size]}`}>
          {show.shots.map((shot) =>
            shot.problem ? (
              <BrokenTile key={shot.id} shot={shot} />
            ) : (
              <ShotTile
                key={shot.id}
                shot={shot}
                size={size}
                role={show.role}
                others={shows.filter((one) => one.id !== show.id && includes(one.role, "own"))}
              />
            ),
          )}
        </div>
      )}
    </section>
  );
}
