import { useState } from "react";
import type { Matte } from "../../api/document";
import { useSession } from "../session";

/** The whole numbers an index matte pulls, with commas between them. */
export function Numbers({ id, matte }: { id: string; matte: Matte }) {
  const edit = useSession((s) => s.edit);
  const [text, setText] = useState<string | null>(null);
  const numbers = (matte as Matte & { numbers?: number[] }).numbers ?? [];
  const commit = () => {
    const typed = (text ?? "")
      .split(/[,\s]+/)
      .map(Number)
      .filter((one) => Number.isInteger(one));
    if (text !== null && typed.length)
      edit([{ op: "set", path: ["mattes", id, "numbers"], value: [...new Set(typed)] }], `numbers ${typed.join(", ")}`);
    setText(null);
  };
  return (
    <label className="grid h-[27px] grid-cols-[78px_1fr] items-center gap-2">
      <span className="text-quiet">Numbers</span>
      <input
        className="value h-[22px] min-w-0 rounded-sm bg-control px-1.5"
        value={text ?? numbers.join(", ")}
        onChange={(event) => setText(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "Enter") event.currentTarget.blur();
        }}
      />
    </label>
  );
}
