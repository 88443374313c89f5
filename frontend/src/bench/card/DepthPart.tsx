import type { Card } from "../../api/document";
import { boundsOf, type Field } from "../../api/models";
import { useSessionParts } from "../session";
import { documentOf, pathOf, shownName } from "../shotParts";
import { useContents } from "../useContents";
import { AnimatedField } from "./AnimatedField";

/** How far away an element is as a whole: where it is set, or where no pass of it tells. */
export function DepthPart({ card, field }: { card: Card; field: Field }) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const contents = useContents();
  const path = [...pathOf(shot, card.id), "depth"];
  if (card.depth != null)
    return <AnimatedField path={path} name="depth" value={card.depth} field={field} bounds={boundsOf(field)} />;
  const source = contents?.sources.find((one) => one.name === card.picture?.source);
  if (!shot || source?.passes.some((one) => one.kind === "depth")) return null;
  const focus = documentOf(shot).camera?.focus;
  const start = typeof focus === "number" ? focus : 10;
  return (
    <div className="grid h-[27px] grid-cols-[78px_1fr] items-center gap-2">
      <span className="text-quiet">Depth</span>
      <button
        type="button"
        className="justify-self-start text-[11.5px] text-faint hover:text-text"
        title="how far away all of it is, for defocus and outlines; no pass of it tells"
        onClick={() => edit([{ op: "set", path, value: start }], `depth of ${shownName(card)}`)}
      >
        set one for all of it
      </button>
    </div>
  );
}
