import { useModels } from "../api/models";
import { useSessionParts } from "../bench/session";
import { Button } from "../controls/Button";
import { Choice } from "../controls/Choice";
import { counted } from "../controls/counted";
import type { PassEntry } from "./groups";
import { severalPassEdits } from "./remedies";

/** What can be set for all chosen passes at once, as one step. */
export function SeveralBar({ chosen, onClear }: { chosen: PassEntry[]; onClear: () => void }) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const kinds = useModels()?.pass_kinds ?? [];
  if (!shot) return null;
  const usual = new Set(chosen.map((one) => one.kind)).size === 1 ? chosen[0]?.kind : undefined;
  const set = (kind: string) => {
    if (kind)
      edit(severalPassEdits(shot, chosen, { kind }), `${chosen.length} passes are ${kind.replaceAll("_", " ")}`);
  };
  return (
    <div
      role="toolbar"
      className="flex shrink-0 items-end gap-4 border-t border-line bg-panel px-6 py-2.5"
      aria-label="Chosen passes"
    >
      <span className="pb-1.5">{counted(chosen.length, "pass")} chosen</span>
      <div className="w-44">
        <Choice
          label="kind of all of them"
          value={usual ?? ""}
          onChange={set}
          options={[
            ...(usual ? [] : [["", "several kinds"] as [string, string]]),
            ...kinds.map((kind): [string, string] => [kind, kind.replaceAll("_", " ")]),
          ]}
        />
      </div>
      <span className="flex-1" />
      <Button onClick={onClear}>Let go</Button>
    </div>
  );
}
