import { X } from "lucide-react";
import { useEffect } from "react";
import { Button, IconButton } from "../../controls/Button";
import { useSession } from "../session";
import { RevisionRow } from "./RevisionRow";
import { leave, useHistory } from "./useHistory";

/** The steps of the shot, in the place of the card. */
export function HistoryPanel() {
  const set = useSession((s) => s.set);
  const { revisions, more, older } = useHistory();
  // what was looked at in the place of the picture is let go; what is wiped beside it stays
  useEffect(() => () => leave(), []);
  return (
    <aside className="flex w-[286px] shrink-0 flex-col border-l border-line bg-panel" aria-label="History">
      <div className="flex h-10 shrink-0 items-center gap-2 border-b border-line pr-1.5 pl-2.5">
        <b className="flex-1 text-[14px]">History</b>
        <IconButton label="Back to the card" look="ghost" onClick={() => set({ aside: null })}>
          <X size={14} />
        </IconButton>
      </div>
      <ul className="min-h-0 flex-1 overflow-y-auto">
        {revisions.map((one) => (
          <RevisionRow key={one.number} revision={one} />
        ))}
        {more && (
          <li className="p-2">
            <Button className="w-full justify-center" onClick={() => older()}>
              Older
            </Button>
          </li>
        )}
      </ul>
      <p className="shrink-0 border-t border-line px-2.5 py-2 text-[11.5px] text-quiet">
        Click a step to see the shot as it was after it. Nothing is lost: going back is a step of its own.
      </p>
    </aside>
  );
}
