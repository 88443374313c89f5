import { useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { answer, api, type Schemas } from "../api/client";
import { fileOf } from "../api/files";
import { type Edit, nameOfMatte, useSessionParts } from "../bench/session";
import { toldStep } from "../bench/toldStep";
import { Button } from "../controls/Button";
import { DialogFrame } from "../controls/DialogFrame";
import { SEVERITY } from "../passes/useCheckup";

type Props = { source: string; found: { path: string; name: string }; onClose: () => void };
type Renamed = Schemas["RenamedData"];

const keyOf = (one: Renamed) => `${one.matte} ${one.old}`;

/** What would change if another file took the place of a source; mattes can follow objects that only got another name. */
export function Comparison({ source, found, onClose }: Props) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const [left, setLeft] = useState<string[]>([]);
  const [naming, setNaming] = useState<string[]>([]);
  const query = useQuery({
    queryKey: ["compare", shot?.id, shot?.revision, source, found.path],
    queryFn: () =>
      answer(
        api.GET("/api/shots/{shot_id}/versions/compare", {
          params: {
            path: { shot_id: shot?.id ?? 0 },
            query: { revision: shot?.revision ?? 0, source, path: found.path },
          },
        }),
      ),
    enabled: shot !== null,
  });
  const compared = query.data;
  const toggle = (list: string[], key: string) =>
    list.includes(key) ? list.filter((one) => one !== key) : [...list, key];
  const replace = async () => {
    if (!compared) return;
    const follow = compared.renamed.filter((one) => !left.includes(keyOf(one)));
    const named = follow.filter((one) => naming.includes(keyOf(one)));
    const edits = [...compared.edits, ...follow.flatMap((one) => one.edits), ...named.flatMap((one) => one.naming)];
    if (!(await edit(edits as Edit[], `replace ${source} by ${found.name}`))) return;
    onClose();
    toldStep(`Replaced ${source} by ${fileOf(found.path)}`);
  };
  return (
    <DialogFrame shape="middle" onClose={onClose}>
      <Dialog.Title className="border-b border-line px-5 py-3 font-semibold">
        Replace {source}
        <span className="value mt-0.5 block truncate font-normal text-quiet" title={found.path}>
          {found.path.split("/").slice(-2, -1)}/{fileOf(found.path)}
        </span>
      </Dialog.Title>
      <div className="min-h-0 flex-1 overflow-y-auto px-5 py-3">
        {query.isPending && <p className="text-quiet">Comparing the two…</p>}
        {query.error && (
          <p role="alert" className="text-coral">
            {query.error.message}
          </p>
        )}
        {compared?.findings.length === 0 && <p className="text-quiet">Same passes, frames and names as before.</p>}
        {compared?.findings.map((finding) => (
          <p key={finding.message} className="mb-1.5">
            <span className={`mr-2 text-[11px] font-semibold ${SEVERITY[finding.severity]}`}>{finding.severity}</span>
            {finding.pass && <span className="text-quiet">{finding.pass.replaceAll("_", " ")} · </span>}
            {finding.message}
          </p>
        ))}
        {compared && compared.renamed.length > 0 && (
          <>
            <h3 className="heading mt-4 mb-1.5">The same objects by another name</h3>
            {compared.renamed.map((one) => (
              <div key={keyOf(one)} className="mb-1.5">
                <label className="flex items-center gap-2">
                  <input
                    type="checkbox"
                    className="accent-verdigris"
                    checked={!left.includes(keyOf(one))}
                    onChange={() => setLeft(toggle(left, keyOf(one)))}
                  />
                  <span>
                    matte <b className="text-lilac">{nameOfMatte(one.matte)}</b> follows {one.old} to {one.new}
                  </span>
                </label>
                {one.naming.length > 0 && !left.includes(keyOf(one)) && (
                  <label className="mt-1 ml-6 flex items-center gap-2 text-quiet">
                    <input
                      type="checkbox"
                      className="accent-verdigris"
                      checked={naming.includes(keyOf(one))}
                      onChange={() => setNaming(toggle(naming, keyOf(one)))}
                    />
                    and is called {one.new} as well
                  </label>
                )}
              </div>
            ))}
          </>
        )}
        {compared && compared.lost.length > 0 && (
          <>
            <h3 className="heading mt-4 mb-1.5">Marked afterwards, to be mended on the bench</h3>
            {compared.lost.map((one) => (
              <p key={one.message} className="mb-1 text-amber">
                {one.message}
              </p>
            ))}
          </>
        )}
      </div>
      <div className="flex justify-end gap-2 border-t border-line px-5 py-3">
        <Button onClick={onClose}>Keep the old one</Button>
        <Button look="primary" disabled={!compared} onClick={replace}>
          Replace
        </Button>
      </div>
    </DialogFrame>
  );
}
