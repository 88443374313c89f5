import { useState } from "react";
import type { Schemas } from "../api/client";
import { Button } from "../controls/Button";
import { ago } from "../controls/time";
import { useOrdering } from "./useShows";

/** What was deleted, to be brought back. */
export function Deleted({ deleted }: { deleted: Schemas["DeletedData"][] }) {
  const { restoreShot, restoreShow } = useOrdering();
  const [open, setOpen] = useState(false);
  return (
    <section aria-label="Deleted" className="mt-6 border-t border-line pt-3">
      <button type="button" aria-expanded={open} className="text-quiet hover:text-text" onClick={() => setOpen(!open)}>
        {deleted.length} deleted {open ? "▾" : "▸"}
      </button>
      {open && (
        <ul className="mt-2 max-w-2xl">
          {deleted.map((one) => (
            <li key={`${one.show_id} ${one.shot_id}`} className="flex h-8 items-center gap-3">
              <span className="min-w-0 truncate">
                {one.shot ? (
                  <>
                    {one.shot} <span className="text-quiet">of {one.show}</span>
                  </>
                ) : (
                  <>
                    {one.show} <span className="text-quiet">with its shots</span>
                  </>
                )}
              </span>
              <span className="ml-auto shrink-0 text-quiet">{ago(one.deleted_at)}</span>
              <Button
                className="h-[24px]!"
                onClick={() => (one.shot_id ? restoreShot(one.shot_id) : restoreShow(one.show_id))}
                aria-label={`Bring ${one.shot ?? one.show} back`}
              >
                Bring it back
              </Button>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
