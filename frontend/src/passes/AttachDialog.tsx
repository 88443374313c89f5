import { Dialog } from "radix-ui";
import { useEffect, useState } from "react";
import { answer, api, type Schemas, type ShotState } from "../api/client";
import { sourcesOf } from "../api/document";
import { freshName } from "../bench/freshName";
import { type Edit, useSessionParts } from "../bench/session";
import { documentOf } from "../bench/shotParts";
import { Button } from "../controls/Button";
import { DialogFrame } from "../controls/DialogFrame";
import { listed } from "../controls/listed";
import { report } from "../controls/notices";
import { frameSpan } from "../controls/time";
import { DropPlace } from "../takein/DropPlace";
import { useDropHere } from "../takein/dropping";
import { FolderList, useFolder } from "../takein/FolderList";
import { Sending } from "../takein/Sending";
import { bare } from "../takein/uploading";
import { useBringing } from "../takein/useBringing";
import { ProposalRow, type Wish } from "./ProposalRow";

type Props = { source: string; paths?: string[]; onClose: () => void };

/** Brings passes and mattes that came late, or as single files, to a source: chosen or dropped, named, attached as one step. */
export function AttachDialog({ source, paths, onClose }: Props) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const [path, setPath] = useState("");
  const [chosen, setChosen] = useState<Set<string>>(new Set());
  const [wishes, setWishes] = useState<Wish[] | null>(null);
  const folder = useFolder(path);
  const propose = async (paths: string[]) => {
    if (!shot) return;
    try {
      setWishes(await proposals(shot, source, paths));
    } catch (error) {
      report(error);
    }
  };
  const { sending, bring, stop } = useBringing((brought) => propose([brought]));
  useDropHere(`Attach to ${source}`, bring);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what it was opened with is proposed once
  useEffect(() => {
    if (paths?.length) propose(paths);
  }, []);
  if (!shot) return null;
  const attach = async () => {
    const wanted = (wishes ?? []).filter((one) => one.on);
    const names = listed(wanted.map((one) => one.name));
    if (await edit(attachEdits(shot, source, wanted), `attach ${names} to ${source}`)) onClose();
  };
  const wanted = wishes?.filter((one) => one.on) ?? [];
  const clash = wanted.find((one, index) => wanted.findIndex((other) => other.name === one.name) !== index);
  return (
    <DialogFrame shape="wide" onClose={onClose}>
      <Dialog.Title className="border-b border-line px-5 py-3 font-semibold">
        Attach to {source}
        <span className="ml-3 font-normal text-quiet">passes and mattes that came late or by themselves</span>
      </Dialog.Title>
      <div className="flex min-h-0 flex-1">
        <nav
          className="w-[230px] shrink-0 overflow-y-auto border-r border-line p-3"
          aria-label="Media folders to attach from"
        >
          <FolderList
            folder={folder.data}
            onOpen={(to) => {
              setPath(to);
              setChosen(new Set());
              setWishes(null);
            }}
          />
          <DropPlace text="Drop files here: any number of them." onFiles={(files) => bring(bare(files))} />
        </nav>
        <div className="min-w-0 flex-1 overflow-y-auto p-4">
          {sending && <Sending state={sending} onStop={stop} />}
          {wishes?.map((wish, index) => (
            <ProposalRow
              key={wish.path}
              wish={wish}
              onChange={(next) => setWishes(wishes.map((old, at) => (at === index ? next : old)))}
            />
          ))}
          {!wishes &&
            folder.data?.found.map((one) => (
              <label key={one.path} className="mb-1 flex items-center gap-3 rounded-sm px-3 py-1.5 hover:bg-control">
                <input
                  type="checkbox"
                  className="accent-verdigris"
                  disabled={one.problem !== null}
                  checked={chosen.has(one.path)}
                  onChange={() => {
                    const next = new Set(chosen);
                    if (!next.delete(one.path)) next.add(one.path);
                    setChosen(next);
                  }}
                />
                <span className="truncate">{one.path.split("/").at(-1)}</span>
                <span className="value ml-auto shrink-0 text-quiet">
                  {one.problem ? "cannot be read" : frameSpan(one.first, one.last)}
                </span>
              </label>
            ))}
          {!wishes && !sending && !folder.data?.found.length && (
            <p className="text-quiet">
              Open a folder on the left and choose its files, or drop files from your computer.
            </p>
          )}
        </div>
      </div>
      <div className="flex items-center justify-end gap-2 border-t border-line px-5 py-3">
        {clash && <span className="mr-auto text-amber">Two files cannot both be called {clash.name}.</span>}
        {wishes && <Button onClick={() => setWishes(null)}>Back</Button>}
        <Button onClick={onClose}>Cancel</Button>
        {wishes ? (
          <Button look="primary" disabled={wanted.length === 0 || clash !== undefined} onClick={attach}>
            Attach {wanted.length}
          </Button>
        ) : (
          <Button look="primary" disabled={chosen.size === 0} onClick={() => propose([...chosen])}>
            Name them…
          </Button>
        )}
      </div>
    </DialogFrame>
  );
}

async function proposals(shot: ShotState, source: string, paths: string[]): Promise<Wish[]> {
  const told = await answer(
    api.POST("/api/shots/{shot_id}/attachable", {
      params: { path: { shot_id: shot.id } },
      body: { revision: shot.revision, source, paths },
    }),
  );
  return told.proposals.map((one: Schemas["ProposalData"]) => ({ ...one, on: true, told: one.kind }));
}

/** One gesture: the files under their names, and the kinds that no name tells. */
function attachEdits(shot: ShotState, source: string, wanted: Wish[]): Edit[] {
  const now = sourcesOf(shot.document)[source];
  const attached = { ...now?.attached };
  const passes: Record<string, object> = { ...now?.passes };
  for (const one of wanted) {
    attached[one.name] = one.offset ? { path: one.path, offset: one.offset } : { path: one.path };
    if (one.passes === 1 && (one.by_value || one.kind !== one.told))
      passes[one.name] = { ...passes[one.name], kind: one.kind };
  }
  const edits: Edit[] = [{ op: "set", path: ["sources", source, "attached"], value: attached }];
  // what came as a matte is one at once, under its name
  const taken = Object.keys(documentOf(shot).mattes ?? {});
  for (const { name, passes: count } of wanted.filter((one) => one.kind === "single_matte")) {
    const id = freshName(taken, name);
    taken.push(id);
    if (count === 1)
      edits.push({ op: "insert", path: ["mattes"], item: { id, kind: "channel", source, pass: name, channel: "red" } });
  }
  if (Object.keys(passes).length) edits.push({ op: "set", path: ["sources", source, "passes"], value: passes });
  return edits;
}
