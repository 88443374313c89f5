import { TriangleAlert } from "lucide-react";
import { type Edit, useSessionParts } from "../bench/session";
import { Button } from "../controls/Button";
import { sentence, withinLine } from "../controls/sentence";
import type { Lost } from "./useLost";

/** One thing that a source does not have, and what can be done about it. */
export function LostRow({ lost }: { lost: Lost }) {
  const { edit } = useSessionParts("edit");
  return (
    <article
      className="my-1 rounded-sm border border-amber/40 px-2 py-1.5"
      aria-label={`Lost ${lost.noun} ${lost.name}`}
    >
      <p className="flex gap-1.5 text-amber">
        <TriangleAlert size={13} className="mt-px shrink-0" />
        <span className="min-w-0 break-words">{sentence(lost.message)}.</span>
      </p>
      {lost.remedies.length > 0 && (
        <div className="mt-1.5 flex flex-wrap gap-1">
          {lost.remedies.map((remedy) => (
            <Button
              key={remedy.label}
              className="h-[22px]! max-w-full px-2! text-[11.5px]"
              onClick={() => edit(remedy.edits as Edit[], `${withinLine(remedy.label)} for ${lost.name}`)}
            >
              <span className="truncate">{remedy.label}</span>
            </Button>
          ))}
        </div>
      )}
    </article>
  );
}
