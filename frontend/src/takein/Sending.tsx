import { Button } from "../controls/Button";
import { ProgressBar } from "../controls/ProgressBar";
import { megabytes } from "../controls/time";
import type { Uploading } from "./uploading";

/** How far the files that are brought in have come. */
export function Sending({ state, onStop }: { state: Uploading; onStop: () => void }) {
  return (
    <div className="mb-4 rounded-sm border border-line bg-panel p-4" role="status">
      <div className="mb-2 flex items-center gap-3">
        <b className="truncate">{state.name}</b>
        <span className="value ml-auto text-quiet">
          {state.files > 1 && `${state.done} of ${state.files} files · `}
          {megabytes(state.sent)} of {megabytes(state.total)}
        </span>
        <Button onClick={onStop}>Cancel</Button>
      </div>
      <ProgressBar label="Bringing in" done={state.sent} total={state.total} />
    </div>
  );
}
