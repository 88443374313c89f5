import { sourcesOf } from "../api/document";
import { type Edit, useSessionParts } from "../bench/session";
import { Button } from "../controls/Button";
import { counted } from "../controls/counted";
import type { PassEntry } from "./groups";

/** The files attached to a source that a pass lies in, and a way to take them off again. */
export function AttachedPart({ looked }: { looked: PassEntry }) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const attached = (shot && sourcesOf(shot.document)[looked.source]?.attached) ?? {};
  const names = looked.attached.filter((name) => name in attached);
  const [first] = names;
  if (!first) return null;
  const takeOff = () => {
    const rest = Object.fromEntries(Object.entries(attached).filter(([name]) => !names.includes(name)));
    const edits: Edit[] = [{ op: "set", path: ["sources", looked.source, "attached"], value: rest }];
    edit(edits, `take ${names.length > 1 ? looked.name : first} off ${looked.source}`);
  };
  return (
    <div className="mt-2 border-t border-line pt-3 first:mt-0 first:border-t-0 first:pt-0">
      <p className="mb-2 break-words text-quiet">
        Attached as <b className="text-text">{names.join(", ")}</b> from {attached[first]?.path.split("/").at(-1)}
        {names.length > 1 && ` and ${counted(names.length - 1, "other file")}`}
      </p>
      <Button look="danger" onClick={takeOff}>
        {names.length > 1 ? "Take them off" : "Take it off"}
      </Button>
    </div>
  );
}
