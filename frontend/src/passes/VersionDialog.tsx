import { useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { answer, api, type Schemas, type ShotState } from "../api/client";
import { documentOf, type Edit, useSession } from "../bench/session";
import { Button } from "../controls/Button";
import { DialogFrame } from "../controls/DialogFrame";
import { SEVERITY } from "./useCheckup";

const nameOf = (number: number) => `v${String(number).padStart(3, "0")}`;

/** The newest other version of a source that lies beside it: what it would change, and replacing by it. */
export function NewerVersion({ source }: { source: string }) {
  const shot = useSession((s) => s.shot);
  const [open, setOpen] = useState(false);
  const query = useQuery({
    queryKey: ["versions", shot?.id, shot?.revision, source],
    queryFn: () =>
      answer(
        api.GET("/api/shots/{shot_id}/versions", {
          params: { path: { shot_id: shot?.id ?? 0 }, query: { revision: shot?.revision ?? 0, source } },
        }),
      ),
    enabled: shot !== null,
    refetchInterval: 15000,
  });
  const newest = query.data?.versions.at(-1);
  if (!shot || !newest || newest.number <= (query.data?.number ?? 0)) return null;
  return (
    <>
      <Button onClick={() => setOpen(true)}>
        {source}: {nameOf(newest.number)} is there…
      </Button>
      {open && <Comparison shot={shot} source={source} version={newest} onClose={() => setOpen(false)} />}
    </>
  );
}

type Props = { shot: ShotState; source: string; version: Schemas["VersionData"]; onClose: () => void };

function Comparison({ shot, source, version, onClose }: Props) {
  const edit = useSession((s) => s.edit);
  const query = useQuery({
    queryKey: ["compare", shot.id, shot.revision, source, version.path],
    queryFn: () =>
      answer(
        api.GET("/api/shots/{shot_id}/versions/compare", {
          params: { path: { shot_id: shot.id }, query: { revision: shot.revision, source, path: version.path } },
        }),
      ),
  });
  const replace = async () => {
    if (!query.data) return;
    const path: Edit = { op: "set", path: ["sources", source, "path"], value: query.data.path };
    const edits = [path, ...renames(shot, source, query.data.findings)];
    if (await edit(edits, `replace ${source} by ${nameOf(version.number)}`)) onClose();
  };
  return (
    <DialogFrame shape="middle" onClose={onClose}>
      <Dialog.Title className="border-b border-line px-5 py-3 font-semibold">
        {source}: replace by {nameOf(version.number)}
        <span className="value ml-3 font-normal text-quiet">
          {version.frames} {version.frames === 1 ? "frame" : "frames"}
        </span>
      </Dialog.Title>
      <div className="min-h-0 flex-1 overflow-y-auto px-5 py-3">
        {query.isPending && <p className="text-quiet">Comparing the two…</p>}
        {query.error && (
          <p role="alert" className="text-coral">
            {query.error.message}
          </p>
        )}
        {query.data?.findings.length === 0 && <p className="text-quiet">Same passes, frames and names as before.</p>}
        {query.data?.findings.map((finding) => (
          <p key={finding.message} className="mb-1.5">
            <span className={`mr-2 text-[11px] font-semibold ${SEVERITY[finding.severity]}`}>{finding.severity}</span>
            {finding.pass && <span className="text-quiet">{finding.pass.replaceAll("_", " ")} · </span>}
            {finding.message}
          </p>
        ))}
        {query.data && query.data.affected.length > 0 && (
          <>
            <h3 className="heading mt-4 mb-1.5">Touched in this shot</h3>
            {query.data.affected.map((one) => (
              <p key={one.kind + one.id + one.why} className="mb-1">
                <b className={one.kind === "matte" ? "text-lilac" : ""}>{one.id}</b>{" "}
                <span className="text-quiet">{one.kind}</span> · {one.why}
                {one.uses.length > 0 && <span className="text-quiet"> · used by {one.uses.join("; ")}</span>}
              </p>
            ))}
          </>
        )}
      </div>
      <div className="flex justify-end gap-2 border-t border-line px-5 py-3">
        <Button onClick={onClose}>Keep the old one</Button>
        <Button look="primary" disabled={!query.data} onClick={replace}>
          Replace
        </Button>
      </div>
    </DialogFrame>
  );
}

/** Mattes follow objects that only got another name. */
function renames(shot: ShotState, source: string, findings: Schemas["FindingData"][]): Edit[] {
  const edits: Edit[] = [];
  for (const finding of findings) {
    const names = finding.remedy?.names as Record<string, string> | undefined;
    if (!names || !finding.pass) continue;
    for (const [id, matte] of Object.entries(documentOf(shot).mattes ?? {})) {
      const own = matte as typeof matte & { source?: string };
      if (own.source !== source || own.layer !== finding.pass || !own.names?.some((name) => String(name) in names))
        continue;
      const value = own.names.map((name) => names[String(name)] ?? name);
      edits.push({ op: "set", path: ["mattes", id, "names"], value });
    }
  }
  return edits;
}
