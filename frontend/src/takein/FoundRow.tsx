import { Layers } from "lucide-react";
import type { Schemas } from "../api/client";
import { fileOf } from "../api/files";
import { counted } from "../controls/counted";
import { frameSpan } from "../controls/time";
import { FoundThumb } from "./FoundThumb";

type Props = {
  found: Schemas["FoundData"];
  chosen: boolean;
  apart: boolean;
  onChoose: (on: boolean) => void;
  onApart: (on: boolean) => void;
};

/** What several passes of a kind are called; most kinds are names of light, which has no plural. */
const severalOf = (kind: string) => (/(group|matte)$/.test(kind) ? `${kind}s` : kind);

/** A still or a sequence of a folder: what it holds, and whether it is taken in. */
export function FoundRow({ found, chosen, apart, onChoose, onApart }: Props) {
  const kinds = Object.entries(found.kinds)
    .map(([kind, count]) => (count > 1 ? `${count} ${severalOf(kind)}` : kind))
    .join(", ")
    .replaceAll("_", " ");
  const missing = found.missing.reduce((count, hole) => count + hole.last - hole.first + 1, 0);
  return (
    <label
      className={`mb-1.5 flex items-center gap-4 rounded-sm border px-4 py-2.5 ${chosen ? "border-line bg-panel" : "border-transparent bg-panel/50"}`}
    >
      <input
        type="checkbox"
        className="accent-verdigris"
        checked={chosen}
        disabled={found.problem !== null}
        onChange={(event) => onChoose(event.target.checked)}
        aria-label={`Take in ${found.name}`}
      />
      <FoundThumb found={found} />
      <span className="min-w-0 flex-1">
        <span className="flex items-baseline gap-3">
          <b>{found.name}</b>
          <span className="value truncate text-quiet">{fileOf(found.path)}</span>
          {found.older && <span className="shrink-0 text-[11px] text-quiet">older version</span>}
        </span>
        {found.problem ? (
          <span className="block text-coral">{found.problem}</span>
        ) : (
          <span className="line-clamp-2 text-quiet" title={kinds}>
            {kinds}
          </span>
        )}
        {found.attached.length > 0 && (
          <span className="mt-0.5 flex items-center gap-2 text-quiet">
            <Layers size={13} className="shrink-0" />
            <span className={`truncate ${apart ? "line-through" : ""}`} title={found.attached.join(", ")}>
              {found.attached.length + 1} files put together: {found.attached.join(", ")}
            </span>
            <button
              type="button"
              className="shrink-0 text-verdigris hover:underline"
              onClick={(event) => {
                event.preventDefault();
                onApart(!apart);
              }}
            >
              {apart ? "put together" : "keep apart"}
            </button>
          </span>
        )}
      </span>
      {!found.problem && (
        <span className="value w-72 shrink-0 text-right text-quiet">
          <span className="block text-text">
            {`${found.movie ? "movie " : ""}${frameSpan(found.first, found.last)}`}
            {missing > 0 && <span className="text-amber"> · {missing} missing</span>}
          </span>
          {found.width}×{found.height} · {counted(found.passes, "pass")}
          {found.ids > 0 && ` · ${found.ids} ID layers`}
        </span>
      )}
    </label>
  );
}
