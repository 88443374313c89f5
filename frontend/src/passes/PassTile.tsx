import type { CSSProperties } from "react";
import { useSessionParts } from "../bench/session";
import { documentOf } from "../bench/shotParts";
import { FindingMark } from "./FindingMark";
import type { PassEntry } from "./groups";
import { KindSelect } from "./KindSelect";
import { passEdits } from "./remedies";
import type { Finding } from "./useCheckup";

type Props = {
  pass: PassEntry;
  named: boolean;
  picture: CSSProperties;
  finding: Finding | undefined;
  chosen: boolean;
  onChoose: (on: boolean) => void;
  onLook: () => void;
};

/** A pass on the contact sheet: its picture, its name, and its kind, which can be changed. */
export function PassTile({ pass, named, picture, finding, chosen, onChoose, onLook }: Props) {
  const { shot, edit } = useSessionParts("shot", "edit");
  if (!shot) return null;
  const { width, height } = documentOf(shot).format;
  const setKind = (kind: string) =>
    edit(passEdits(shot, pass.source, pass.name, { kind }), `${pass.name} is ${kind.replaceAll("_", " ")}`);
  return (
    <div className="group relative min-w-0">
      {!pass.isIds && (
        <input
          type="checkbox"
          checked={chosen}
          onChange={(event) => onChoose(event.target.checked)}
          aria-label={`Choose ${pass.name}`}
          className={`absolute top-1.5 left-1.5 z-10 accent-verdigris focus-visible:opacity-100 group-hover:opacity-100 ${chosen ? "" : "opacity-0"}`}
        />
      )}
      <button type="button" onClick={onLook} className="relative block w-full" aria-label={`Look at ${pass.name}`}>
        <span
          style={{ aspectRatio: `${width} / ${height}`, ...picture }}
          className={`block w-full rounded-[2px] hover:outline ${chosen ? "outline-2 outline-verdigris" : "hover:outline-faint"} ${picture.backgroundImage ? "bg-black" : "bg-control"}`}
        />
        <FindingMark finding={finding} />
      </button>
      <div className="flex items-baseline gap-2 pt-1">
        <span className="min-w-0 truncate font-semibold" title={`${pass.source} · ${pass.name}`}>
          {pass.name}
        </span>
        {named && <span className="ml-auto shrink-0 text-[11px] text-faint">{pass.source}</span>}
      </div>
      <div className="flex items-center gap-2">
        {pass.isIds ? (
          <span className="text-quiet">IDs</span>
        ) : (
          <KindSelect
            value={pass.kind}
            onChange={setKind}
            label={`Kind of ${pass.name}`}
            className="-ml-1 h-6 min-w-0 bg-transparent px-1 text-quiet hover:bg-control"
          />
        )}
        <span className="value ml-auto shrink-0 text-[10.5px] text-faint">{pass.detail}</span>
      </div>
    </div>
  );
}
