import { useSessionParts } from "../session";
import { documentOf } from "../shotParts";
import { ChoiceRow } from "./picture/ChoiceRow";

/** Which source something is taken from; `what` is told in the history. */
export function SourceRow({ path, value, what }: { path: string[]; value: string | null; what: string }) {
  const { shot, edit } = useSessionParts("shot", "edit");
  if (!shot) return null;
  const sources = Object.keys(documentOf(shot).sources ?? {});
  const choices = value === null ? [{ value: "", text: "choose…" }, ...sources] : sources;
  return (
    <ChoiceRow
      label="Source"
      value={value ?? ""}
      choices={choices}
      onChoose={(source) => edit([{ op: "set", path, value: source || null }], `${what} shows ${source}`)}
    />
  );
}
