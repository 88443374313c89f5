import { Dialog } from "radix-ui";
import { useState } from "react";
import { useContents } from "../bench/useContents";
import { Button } from "../controls/Button";
import { DialogFrame } from "../controls/DialogFrame";
import { AttachDialog } from "../passes/AttachDialog";
import { DropPlace } from "../takein/DropPlace";
import { useDropHere } from "../takein/dropping";
import { FolderList, useFolder } from "../takein/FolderList";
import { Sending } from "../takein/Sending";
import { bare } from "../takein/uploading";
import { useBringing } from "../takein/useBringing";
import { ArrivedRow } from "./ArrivedRow";
import { addSources } from "./adding";
import { Comparison } from "./Comparison";
import { type Arrived, useArrived } from "./useArrived";

export type SourcesWish = {
  /** A folder to begin in, as one that was just brought in; else beside the sources there are. */
  folder?: string;
  /** The source that is to be replaced; without one, pictures are added. */
  replacing?: string;
};
type Next = { replace: string; by: Arrived } | { attach: string; path: string };

/** Pictures from the media folders or from this computer: added to the shot, put in place of a source, or attached to one. */
export function SourcesDialog({ wish, onClose }: { wish: SourcesWish; onClose: () => void }) {
  const contents = useContents();
  const own = contents?.sources.find((one) => one.name === wish.replacing) ?? contents?.sources[0];
  const beside = (own?.folder ?? "").split("/").slice(0, -1).join("/");
  const [path, setPath] = useState<string | null>(wish.folder ?? null);
  const [next, setNext] = useState<Next | null>(null);
  const [adding, setAdding] = useState(false);
  const wanted = path ?? beside;
  const folder = useFolder(wanted);
  const outside = folder.isError && path === null;
  const roots = useFolder("", outside);
  const shown = outside ? roots.data : folder.data;
  const arrived = useArrived(
    (shown?.found ?? []).map((one) => one.path),
    shown?.path ?? "",
  );
  const { sending, bring, stop } = useBringing((brought) => setPath(brought));
  useDropHere(wish.replacing ? `Replace ${wish.replacing}` : "Add to this shot", bring);
  const rows = arrived.data?.arrived ?? [];
  const fresh = rows.filter((one) => !one.found.problem && !one.used && !one.found.older);
  const add = async (paths: string[]) => {
    setAdding(true);
    const done = await addSources(paths, shown?.path ?? "");
    setAdding(false);
    if (done) onClose();
  };
  if (next && "attach" in next) return <AttachDialog source={next.attach} paths={[next.path]} onClose={onClose} />;
  if (next) return <Comparison source={next.replace} found={next.by.found} onClose={onClose} />;
  const sources = contents?.sources.map((one) => one.name) ?? [];
  return (
    <DialogFrame shape="wide" onClose={onClose}>
      <Dialog.Title className="border-b border-line px-5 py-3 font-semibold">
        {wish.replacing ? `Replace ${wish.replacing}` : "Add a source"}
        <span className="ml-3 font-normal text-quiet">
          {wish.replacing
            ? "by another version, or by anything else: what it changes is shown first"
            : "a still, a sequence or a movie: a plate goes behind everything, the rest in front"}
        </span>
      </Dialog.Title>
      <div className="flex min-h-0 flex-1">
        <nav className="w-[250px] shrink-0 overflow-y-auto border-r border-line p-3" aria-label="Media folders">
          <FolderList folder={shown} onOpen={setPath} />
          <DropPlace text="Drop files or a folder anywhere here." onFiles={(files) => bring(bare(files))} />
        </nav>
        <div className="min-w-0 flex-1 overflow-y-auto p-4">
          {sending && <Sending state={sending} onStop={stop} />}
          {((path !== null && folder.error) || arrived.error) && (
            <p role="alert" className="mb-3 text-coral">
              {(folder.error ?? arrived.error)?.message}
            </p>
          )}
          {rows.map((one) => (
            <ArrivedRow
              key={one.found.path}
              arrived={one}
              replacing={wish.replacing}
              sources={sources}
              busy={adding}
              onAdd={() => add([one.found.path])}
              onReplace={(source) => setNext({ replace: source, by: one })}
              onAttach={(source) => setNext({ attach: source, path: one.found.path })}
            />
          ))}
          {!sending && shown && shown.found.length === 0 && (
            <p className="max-w-md text-quiet">
              {shown.folders.length
                ? "No pictures lie in this folder itself: open one of its folders on the left, or drop files from your computer."
                : "No pictures lie in this folder: open another one, or drop files from your computer."}
            </p>
          )}
          {(folder.isFetching || arrived.isFetching) && rows.length === 0 && (
            <p className="text-quiet">Looking into the folder…</p>
          )}
        </div>
      </div>
      <div className="flex items-center justify-end gap-2 border-t border-line px-5 py-3">
        {adding && <span className="mr-auto text-quiet">Reading its passes…</span>}
        <Button onClick={onClose}>Close</Button>
        {!wish.replacing && fresh.length > 1 && (
          <Button look="primary" disabled={adding} onClick={() => add(fresh.map((one) => one.found.path))}>
            Add all {fresh.length}
          </Button>
        )}
      </div>
    </DialogFrame>
  );
}
