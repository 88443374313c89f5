import { type ReactNode, useState } from "react";
import { useSession } from "../bench/session";
import { useDropHere } from "../takein/dropping";
import { Sending } from "../takein/Sending";
import { useBringing } from "../takein/useBringing";
import { SourcesDialog, type SourcesWish } from "./SourcesDialog";

/** What a page of a shot needs to take in what is dropped on it, and to open the dialog of sources otherwise. */
export function useShotDrop(): { add: () => void; dialogs: ReactNode } {
  const name = useSession((s) => s.shot?.name);
  const [wish, setWish] = useState<SourcesWish | null>(null);
  const { sending, bring, stop } = useBringing((folder) => setWish({ folder }));
  useDropHere(name ? `Bring into ${name}` : "Bring into this shot", bring);
  const dialogs = (
    <>
      {sending && (
        <div className="fixed right-4 bottom-4 z-50 w-96 shadow-xl">
          <Sending state={sending} onStop={stop} />
        </div>
      )}
      {wish && <SourcesDialog wish={wish} onClose={() => setWish(null)} />}
    </>
  );
  return { add: () => setWish({}), dialogs };
}
