import { Trash2 } from "lucide-react";
import { Popover } from "radix-ui";
import { useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { Button, IconButton } from "../../controls/Button";
import { report } from "../../controls/notices";
import { type Edit, nameOfMatte, useSessionParts } from "../session";

type Props = { id: string; uses: string[]; onGone: () => void };

/** Deletes a matte at once if nothing uses it; else it says first what goes with it. */
export function DeleteMatte({ id, uses, onGone }: Props) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const [removal, setRemoval] = useState<Schemas["RemovalData"] | null>(null);
  if (!shot) return null;
  const remove = (found: Schemas["RemovalData"]) => {
    setRemoval(null);
    onGone();
    edit(found.edits as Edit[], `delete matte ${nameOfMatte(id)}`);
  };
  const ask = async () => {
    try {
      const found = await answer(
        api.GET("/api/shots/{shot_id}/removal", {
          params: { path: { shot_id: shot.id }, query: { revision: shot.revision, matte: id } },
        }),
      );
      if (found.with_it.length) setRemoval(found);
      else remove(found);
    } catch (error) {
      report(error);
    }
  };
  return (
    <Popover.Root open={removal !== null} onOpenChange={(open) => !open && setRemoval(null)}>
      <Popover.Anchor asChild>
        <span>
          <IconButton
            label={uses.length ? "Delete the matte with what uses it…" : "Delete the matte"}
            look="ghost"
            onClick={ask}
          >
            <Trash2 size={13} />
          </IconButton>
        </span>
      </Popover.Anchor>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={4}
          aria-label={`Delete ${nameOfMatte(id)}`}
          className="z-40 w-64 rounded-sm border border-line bg-panel p-3 shadow-xl"
        >
          <p className="mb-1.5">With the matte go:</p>
          <ul className="mb-2.5 list-disc pl-4 text-quiet">
            {removal?.with_it.map((what) => (
              <li key={what}>{what}</li>
            ))}
          </ul>
          <div className="flex justify-end gap-1.5">
            <Button onClick={() => setRemoval(null)}>Keep it</Button>
            <Button look="danger" onClick={() => removal && remove(removal)}>
              Delete all of it
            </Button>
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
