import { X } from "lucide-react";
import { useRef, useState } from "react";
import type { Matte } from "../../api/document";
import { Button, IconButton } from "../../controls/Button";
import { useSession } from "../session";
import { useDisplayNames } from "../useDisplayNames";
import { lastPart } from "./names";

/** A matte that was called by its one object, and now pulls another: its new name is offered. */
export function NewName({ id, matte }: { id: string; matte: Matte }) {
  const edit = useSession((s) => s.edit);
  const { shown } = useDisplayNames();
  const [left, setLeft] = useState<string | null>(null);
  const names = (matte.names ?? []).map(String);
  const own = names.length === 1 ? lastPart(shown(names[0] as string)) : null;
  const called = matte.name ?? id;
  const before = useRef(own);
  // only what was called by its object goes on being called so
  const followed = useRef(own !== null && called === own);
  if (own !== null && called === own) {
    followed.current = true;
    before.current = own;
  }
  if (own === null || called === own || !followed.current || called !== before.current || left === own) return null;
  return (
    <div className="mb-1.5 flex items-center gap-2 rounded-sm border border-lilac/50 px-2 py-1" role="status">
      <span className="min-w-0 flex-1 truncate">
        It is <b>{own}</b> now.
      </span>
      <Button
        className="h-[22px]! px-2! text-[11.5px]"
        onClick={() =>
          edit([{ op: "set", path: ["mattes", id, "name"], value: own === id ? null : own }], `call it ${own}`)
        }
      >
        Call it so
      </Button>
      <IconButton label="Keep its name" look="ghost" className="h-[22px]! w-[22px]!" onClick={() => setLeft(own)}>
        <X size={12} />
      </IconButton>
    </div>
  );
}
