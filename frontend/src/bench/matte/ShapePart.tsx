import { Diamond } from "lucide-react";
import { isKeys, type Keys, type Matte, toggleKey } from "../../api/document";
import { Button } from "../../controls/Button";
import { Segments } from "../../controls/Segments";
import { useSessionParts } from "../session";

type Shape = Matte & { form?: string; points: number[] | Keys };
const FORMS = ["polygon", "curve"];

/** The form of a drawn shape, and the key of its points at this frame. */
export function ShapePart({ id, matte }: { id: string; matte: Matte }) {
  const { frame, edit } = useSessionParts("frame", "edit");
  const shape = matte as Shape;
  const form = shape.form ?? "polygon";
  const keyed = isKeys(shape.points) && shape.points.keys.some(([at]) => at === frame);
  const path = ["mattes", id];
  return (
    <div className="pb-1">
      {form !== "ellipse" && (
        <Segments
          className="mb-1 flex w-fit rounded-sm bg-control p-[2px]"
          label="Form"
          name={`form of ${id}`}
          choices={FORMS.map((value) => ({ value, text: value }))}
          value={form}
          onPick={(one) =>
            edit([{ op: "set", path: [...path, "form"], value: one }], `${matte.name ?? id} is a ${one}`)
          }
        />
      )}
      <Button
        aria-pressed={keyed}
        className="px-2!"
        onClick={() =>
          edit(
            [{ op: "set", path: [...path, "points"], value: toggleKey(shape.points, frame) }],
            `key of the shape ${matte.name ?? id} at ${frame}`,
          )
        }
      >
        <Diamond size={12} className={keyed ? "fill-lilac text-lilac" : "text-quiet"} />
        {keyed ? "Key here" : "Set a key here"}
      </Button>
      <p className="mt-1 text-[11px] text-quiet">
        Drag its points in the picture
        {form === "ellipse" ? "" : ", a side's dot for a new one; double-click takes one out"}.
      </p>
    </div>
  );
}
