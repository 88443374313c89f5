import type { Schemas } from "../api/client";
import { KindSelect } from "./KindSelect";

/** A file as it would be attached, and as the user wants it; `told` is the kind its name tells. */
export type Wish = Schemas["ProposalData"] & { on: boolean; told: string };

/** One file to attach: whether, under which name, as what. */
export function ProposalRow({ wish, onChange }: { wish: Wish; onChange: (next: Wish) => void }) {
  return (
    <div className={`mb-1.5 rounded-sm border px-3 py-2 ${wish.on ? "border-line" : "border-transparent opacity-60"}`}>
      <div className="flex items-center gap-3">
        <input
          type="checkbox"
          className="accent-verdigris"
          checked={wish.on}
          onChange={(event) => onChange({ ...wish, on: event.target.checked })}
          aria-label={`Attach ${wish.file}`}
        />
        <input
          className="h-7 w-44 rounded-sm bg-control px-2"
          value={wish.name}
          onChange={(event) => onChange({ ...wish, name: event.target.value })}
          aria-label={`Name of ${wish.file}`}
        />
        {wish.passes === 1 ? (
          <KindSelect
            value={wish.kind}
            onChange={(kind) => onChange({ ...wish, kind })}
            label={`Kind of ${wish.file}`}
            className="h-7 bg-control px-2"
          />
        ) : (
          <span className="text-quiet">{wish.passes} passes</span>
        )}
        <span className="min-w-0 flex-1 truncate text-quiet" title={wish.why}>
          {wish.why}
        </span>
        <span className="value shrink-0 text-faint">
          {wish.file} · {wish.frames === 1 ? "still" : `${wish.frames} frames`}
        </span>
      </div>
      {wish.doubt && <p className="mt-1 pl-7 text-amber">{wish.doubt}</p>}
    </div>
  );
}
