import { Keyboard, Redo2, Undo2 } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { rateOf } from "../api/document";
import { ButtonLink, IconButton } from "../controls/Button";
import { TopBar } from "../controls/TopBar";
import { LostButton } from "../lost/LostButton";
import { useCheckup, working } from "../passes/useCheckup";
import { ShotSettings } from "../shots/ShotSettings";
import { CommentsButton } from "./comments/CommentsButton";
import { HistoryButton } from "./history/HistoryButton";
import { useSessionParts } from "./session";
import { documentOf } from "./shotParts";

/** The way to the passes and their check-up, with how many of its findings want to be looked at. */
function CheckupLink({ shotId }: { shotId: number }) {
  const { checkup } = useCheckup();
  const count = checkup?.findings.filter((one) => one.severity !== "note").length ?? 0;
  const told = working(checkup) ? `${checkup?.done}/${checkup?.total}` : count ? String(count) : "";
  return (
    <ButtonLink
      to={`/shots/${shotId}/passes`}
      title={count ? `the check-up found ${count} things to look at` : "all passes, and their check-up"}
    >
      Passes
      {told && <span className={`value ${working(checkup) ? "text-quiet" : "text-amber"}`}>{told}</span>}
    </ButtonLink>
  );
}

export function Header({ onKeys, place }: { onKeys?: () => void; place: "bench" | "passes" | "hand-off" }) {
  const { shot, travel, busy } = useSessionParts("shot", "travel", "busy");
  const [settings, setSettings] = useState(false);
  const document = shot && documentOf(shot);
  const format = document?.format;
  const told =
    format &&
    [
      `${format.width}×${format.height} · ${Number(rateOf(format.fps).toFixed(3))} fps`,
      ...(document.colour?.working === "lin_ap1" ? ["ACEScg"] : []),
      ...(document.colour?.view === "aces" ? ["ACES"] : []),
    ].join(" · ");
  return (
    <TopBar>
      {shot && format && (
        <>
          <span className="max-w-40 truncate text-quiet">{shot.show}</span>
          <span className="text-faint">/</span>
          {place === "bench" ? (
            <b className="text-[13px]">{shot.name}</b>
          ) : (
            <Link to={`/shots/${shot.id}`} className="font-semibold hover:text-verdigris">
              {shot.name}
            </Link>
          )}
          <button
            type="button"
            title="name, frames, rate, size and view of the shot"
            aria-label={`${told}: name, frames, rate, size and view of the shot`}
            className="value rounded-sm px-1 text-quiet hover:bg-control hover:text-text"
            onClick={() => setSettings(true)}
          >
            {told}
          </button>
          {settings && <ShotSettings shotId={shot.id} onClose={() => setSettings(false)} />}
          <span className="flex-1" />
          {place === "bench" && <HistoryButton />}
          <IconButton
            label={
              shot.can_undo
                ? `Undo: ${shot.undo_command}${shot.changed_by ? `, by ${shot.changed_by}` : ""}`
                : "Nothing to undo"
            }
            shortcut="Ctrl Z"
            disabled={!shot.can_undo || shot.role === "look"}
            onClick={() => travel("undo")}
          >
            <Undo2 size={14} />
          </IconButton>
          <IconButton
            label="Redo"
            shortcut="Ctrl Shift Z"
            disabled={!shot.can_redo || shot.role === "look"}
            onClick={() => travel("redo")}
          >
            <Redo2 size={14} />
          </IconButton>
          <span
            className="min-w-[116px] text-quiet"
            role="status"
            data-testid="saved"
            title={shot.changed_by ? `last changed by ${shot.changed_by}` : undefined}
          >
            {shot.role === "look" ? "look only" : busy ? "saving…" : "saved"} · revision {shot.revision}
          </span>
          {onKeys && (
            <IconButton label="Keyboard shortcuts" shortcut="?" look="ghost" onClick={onKeys}>
              <Keyboard size={15} />
            </IconButton>
          )}
          {place === "bench" && <CommentsButton />}
          <LostButton />
          {place !== "passes" && <CheckupLink shotId={shot.id} />}
          {place === "passes" && (
            <ButtonLink look="primary" to={`/shots/${shot.id}`}>
              To the bench
            </ButtonLink>
          )}
          {place === "bench" && (
            <ButtonLink look="primary" to={`/shots/${shot.id}/hand-off`}>
              Hand off
            </ButtonLink>
          )}
        </>
      )}
    </TopBar>
  );
}
