import { ArrowLeftRight, RotateCcw, SquareSplitHorizontal } from "lucide-react";
import { IconButton } from "../../controls/Button";
import { Thumb } from "../../controls/Thumb";
import { ago } from "../../controls/time";
import { includes, useMe } from "../../people/useMe";
import { useSessionParts } from "../session";
import { useRestingFrame } from "../useRestingFrame";
import { thumbAddress } from "../viewer/looks";
import { isPair } from "../viewer/ways";
import { goBack, lookAt, type Revision, wipeBeside, wipeWith } from "./useHistory";

/** One step of the shot: what was done, by whom and when, and the picture after it. */
export function RevisionRow({ revision }: { revision: Revision }) {
  const { data: me } = useMe();
  const { saved, against, before, wipe } = useSessionParts("saved", "against", "before", "wipe");
  const frame = useRestingFrame();
  if (!saved) return null;
  const { number, command, made_by, created_at, kept } = revision;
  const head = number === saved.revision;
  const chosen = typeof against === "object" && (before || wipe !== null || isPair(against)) ? against : null;
  const compared = chosen?.revision === number || chosen?.with === number;
  return (
    <li
      aria-label={`Revision ${number}`}
      aria-current={head}
      className={`group relative border-b border-line ${compared ? "bg-control/60" : ""}`}
    >
      <button
        type="button"
        onClick={() => lookAt(head || (compared && before) ? null : number)}
        title={`${head ? "what the shot is now" : compared && before ? "back to what it is now" : "look at it"}${made_by ? `; by ${made_by}` : ""}`}
        className={`flex w-full items-center gap-2.5 px-2.5 py-1.5 text-left ${kept ? "" : "opacity-60"}`}
      >
        <Thumb
          address={thumbAddress(saved.id, { kind: "picture", revision: number, frame, scale: 8 })}
          alt=""
          className={`h-[40px] w-[71px] shrink-0 rounded-[2px] bg-black object-contain ${compared ? "outline outline-1 outline-amber" : ""}`}
        />
        <span className="min-w-0 flex-1">
          <span className="line-clamp-2 leading-tight">{command}</span>
          <span className="block truncate text-[11.5px] text-quiet">
            <span className={`value ${head ? "text-verdigris" : ""}`}>{number}</span>
            {head && " now"}
            {!kept && " undone"} · {ago(created_at)}
            {made_by && made_by !== me?.name && ` · ${made_by}`}
          </span>
        </span>
      </button>
      {!head && (
        <span className="absolute right-1.5 bottom-1 flex gap-1 bg-panel opacity-0 group-focus-within:opacity-100 group-hover:opacity-100">
          <IconButton
            label={`Wipe revision ${number}`}
            className="h-[22px]! w-[22px]!"
            onClick={() => wipeWith(number)}
          >
            <SquareSplitHorizontal size={12} />
          </IconButton>
          {chosen && chosen.revision !== number && (
            <IconButton
              label={`Compare revision ${chosen.revision} with revision ${number}`}
              className="h-[22px]! w-[22px]!"
              onClick={() => wipeBeside(number)}
            >
              <ArrowLeftRight size={12} />
            </IconButton>
          )}
          {includes(saved.role, "work") && (
            <IconButton
              label={`Go back to revision ${number}: one step, which can be undone`}
              className="h-[22px]! w-[22px]!"
              onClick={() => goBack(number)}
            >
              <RotateCcw size={12} />
            </IconButton>
          )}
        </span>
      )}
    </li>
  );
}
