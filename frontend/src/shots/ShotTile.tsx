import { Ellipsis, MessageSquare } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { thumbAddress } from "../bench/viewer/looks";
import { IconButton } from "../controls/Button";
import { counted } from "../controls/counted";
import { Menu } from "../controls/Menu";
import { NameInput } from "../controls/NameInput";
import { Thumb } from "../controls/Thumb";
import { ago, frameSpan } from "../controls/time";
import { includes, type Role } from "../people/useMe";
import { ShotSettings } from "./ShotSettings";
import { SCALES, type TileSize } from "./tiles";
import { type Shot, type Show, useOrdering } from "./useShows";

type Props = { shot: Shot; size: TileSize; role: Role; others: Show[] };

/** A shot as its picture: a click opens it, F2 renames it, Delete deletes it. */
export function ShotTile({ shot, size, role, others }: Props) {
  const ordering = useOrdering();
  const navigate = useNavigate();
  const [naming, setNaming] = useState(false);
  const [settings, setSettings] = useState(false);
  const [works, owns] = [includes(role, "work"), includes(role, "own")];
  const findings = shot.findings > 0 && counted(shot.findings, "finding");
  return (
    <article
      className="group relative overflow-hidden rounded-sm border border-line bg-panel focus-within:border-faint hover:border-faint"
      aria-label={shot.name}
    >
      <div className="relative">
        <Link
          to={`/shots/${shot.id}`}
          aria-label={`Open ${shot.name}`}
          className="block bg-stage outline-offset-[-2px]"
          style={{ aspectRatio: "16 / 9" }}
          title={shot.sources.filter((_, index) => index % 2 === 0).join(", ")}
          onKeyDown={(event) => {
            if (event.key === "F2" && works) setNaming(true);
            else if (event.key === "Delete" && owns) ordering.deleteShot(shot);
            else return;
            event.preventDefault();
          }}
        >
          <Thumb
            address={thumbAddress(shot.id, {
              kind: "picture",
              revision: shot.revision,
              frame: shot.poster,
              scale: SCALES[size],
            })}
            alt=""
            className="h-full w-full object-contain"
          />
        </Link>
        {/* over the picture, so that the line below has room for when; a click goes through to it */}
        <div className="value pointer-events-none absolute bottom-1 left-1 flex gap-1">
          {findings && <span className="rounded-sm bg-panel/90 px-1.5 text-amber">{findings}</span>}
          {shot.comments > 0 && (
            <span
              role="img"
              aria-label={`${shot.comments} open ${shot.comments === 1 ? "comment" : "comments"}`}
              className="inline-flex items-center gap-1 rounded-sm bg-panel/90 px-1.5"
            >
              <MessageSquare size={11} />
              {shot.comments}
            </span>
          )}
        </div>
      </div>
      <div className="flex items-center gap-1.5 pt-1.5 pr-1 pl-2.5">
        {naming ? (
          <NameInput
            label="Name of the shot"
            className="h-[22px] flex-1 bg-control font-semibold"
            name={shot.name}
            autoFocus
            onName={(name) => ordering.renameShot(shot, name)}
            onDone={() => setNaming(false)}
          />
        ) : (
          <b className="min-w-0 flex-1 truncate" title={shot.name}>
            {shot.name}
          </b>
        )}
        <Menu
          trigger={
            <IconButton label={`Shot ${shot.name}`} look="ghost" className="h-[22px]! w-[22px]!">
              <Ellipsis size={14} />
            </IconButton>
          }
          sections={[
            {
              choices: [
                { key: "open", label: "Open", onPick: () => navigate(`/shots/${shot.id}`) },
                ...(works
                  ? [
                      { key: "name", label: "Rename", note: "F2", onPick: () => setNaming(true) },
                      { key: "settings", label: "Frames, rate and size…", onPick: () => setSettings(true) },
                    ]
                  : []),
              ],
            },
            ...(owns && others.length
              ? [
                  {
                    title: "move to",
                    choices: others.map((show) => ({
                      key: `move ${show.id}`,
                      label: show.name,
                      onPick: () => ordering.moveShot(shot.id, show.id),
                    })),
                  },
                ]
              : []),
            {
              choices: owns
                ? [
                    {
                      key: "delete",
                      label: "Delete",
                      note: "Del",
                      danger: true,
                      onPick: () => ordering.deleteShot(shot),
                    },
                  ]
                : [],
            },
          ]}
        />
      </div>
      <div className="value flex flex-wrap gap-x-2.5 px-2.5 pb-2 text-quiet">
        <span>{frameSpan(shot.first, shot.last)}</span>
        {size === "large" && (
          <span>
            {shot.width}×{shot.height} · {shot.fps} fps · {counted(shot.cards, "card")} · revision {shot.revision}
          </span>
        )}
        {size !== "small" && (
          <span className="ml-auto" title={shot.changed_by ? `by ${shot.changed_by}` : undefined}>
            {ago(shot.changed_at)}
            {size === "large" && shot.changed_by && ` by ${shot.changed_by}`}
          </span>
        )}
      </div>
      {settings && (
        <ShotSettings
          shotId={shot.id}
          onClose={() => {
            setSettings(false);
            ordering.refresh();
          }}
        />
      )}
    </article>
  );
}
