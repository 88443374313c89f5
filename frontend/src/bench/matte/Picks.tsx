import { Pipette } from "lucide-react";
import type { Matte } from "../../api/document";
import { Button } from "../../controls/Button";
import { type Picking, useSessionParts } from "../session";

const ASKED: Record<string, { what: "near" | "far" | "colour"; label: string }[]> = {
  depth: [
    { what: "near", label: "Touch near, then far" },
    { what: "far", label: "Touch far" },
  ],
  key: [{ what: "colour", label: "Touch the colour" }],
};

/** Values of a matte that are set by touching something in the picture. */
export function Picks({ id, matte }: { id: string; matte: Matte }) {
  const { picking, set } = useSessionParts("picking", "set");
  const asked = ASKED[matte.kind];
  if (!asked) return null;
  const on = (one: Picking | null, what: string) => one?.matte === id && one.what === what;
  return (
    <div className="flex gap-1.5 py-1">
      {asked.map(({ what, label }) => (
        <Button
          key={what}
          aria-pressed={on(picking, what)}
          className={`px-2! ${on(picking, what) ? "outline outline-1 outline-lilac" : ""}`}
          onClick={() => set({ picking: on(picking, what) ? null : { matte: id, what } })}
        >
          <Pipette size={12} /> {label}
        </Button>
      ))}
    </div>
  );
}
