import { useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { answer, api } from "../api/client";
import { type Edit, useSessionParts } from "../bench/session";
import { toldStep } from "../bench/toldStep";
import { Button } from "../controls/Button";
import { DialogFrame } from "../controls/DialogFrame";

/** Takes a source out of the shot with what uses it, after saying what that is. */
export function RemoveSource({ source, onClose }: { source: string; onClose: () => void }) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const query = useQuery({
    queryKey: ["source removal", shot?.id, shot?.revision, source],
    queryFn: () =>
      answer(
        api.GET("/api/shots/{shot_id}/sources/removal", {
          params: { path: { shot_id: shot?.id ?? 0 }, query: { revision: shot?.revision ?? 0, source } },
        }),
      ),
    enabled: shot !== null,
  });
  const found = query.data;
  const remove = async () => {
    if (!found) return;
    onClose();
    if (await edit(found.edits as Edit[], `remove source ${source}`)) toldStep(`Removed ${source} from the shot`);
  };
  return (
    <DialogFrame shape="middle" onClose={onClose}>
      <Dialog.Title className="border-b border-line px-5 py-3 font-semibold">Remove {source}</Dialog.Title>
      <div className="min-h-0 flex-1 overflow-y-auto px-5 py-3">
        {query.error && (
          <p role="alert" className="text-coral">
            {query.error.message}
          </p>
        )}
        {found && !found.with_it.length && <p>Nothing uses it. Its files stay where they are.</p>}
        {found && found.with_it.length > 0 && (
          <>
            <p className="mb-1.5">With it go:</p>
            <ul className="mb-2 list-disc pl-5 text-quiet">
              {found.with_it.map((what) => (
                <li key={what}>{what}</li>
              ))}
            </ul>
            <p className="text-quiet">Its files stay where they are, and undo brings everything back.</p>
          </>
        )}
      </div>
      <div className="flex justify-end gap-2 border-t border-line px-5 py-3">
        <Button onClick={onClose}>Keep it</Button>
        <Button look="danger" disabled={!found} onClick={remove}>
          {found?.with_it.length ? "Remove all of it" : "Remove it"}
        </Button>
      </div>
    </DialogFrame>
  );
}
