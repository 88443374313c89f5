import { Dialog } from "radix-ui";
import { useState } from "react";
import { Button } from "../controls/Button";
import { DialogFrame } from "../controls/DialogFrame";
import { report } from "../controls/notices";
import { ProposingInput } from "../controls/ProposingInput";
import { takeIn } from "../takein/uploading";

export type Wish = { folder: string; shot: string; show: string | null };
type Props = { wish: Wish; shows: string[]; onClose: () => void; onMade: (shotId: number) => void };

/** Which show what was dropped belongs to, and what the shot is called. */
export function TakeInDialog({ wish, shows, onClose, onMade }: Props) {
  const [show, setShow] = useState(wish.show ?? shows[0] ?? wish.shot);
  const [shot, setShot] = useState(wish.shot);
  const [working, setWorking] = useState(false);
  const make = async () => {
    setWorking(true);
    try {
      onMade((await takeIn(show, shot, [wish.folder])).id);
    } catch (error) {
      report(error);
      setWorking(false);
    }
  };
  return (
    <DialogFrame shape="middle" onClose={onClose}>
      <Dialog.Title className="border-b border-line px-5 py-3 font-semibold">Take in</Dialog.Title>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          make();
        }}
      >
        <div className="grid grid-cols-2 gap-3 px-5 py-4">
          <label className="flex flex-col gap-1">
            <span className="text-quiet">Show: one there is, or a new name</span>
            <ProposingInput
              className="h-7 rounded-sm bg-control px-2"
              choices={shows}
              value={show}
              onChange={setShow}
            />
          </label>
          <label className="flex flex-col gap-1">
            <span className="text-quiet">Shot</span>
            <input
              className="h-7 rounded-sm bg-control px-2"
              value={shot}
              onChange={(event) => setShot(event.target.value)}
            />
          </label>
        </div>
        <div className="flex items-center justify-end gap-2 border-t border-line px-5 py-3">
          {working && <span className="mr-auto text-quiet">Reading its passes…</span>}
          <Button onClick={onClose}>Cancel</Button>
          <Button look="primary" type="submit" disabled={working || !show.trim() || !shot.trim()}>
            Take in
          </Button>
        </div>
      </form>
    </DialogFrame>
  );
}
