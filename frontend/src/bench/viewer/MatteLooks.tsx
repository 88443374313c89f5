import { type MatteLook, useSession } from "../session";

const LOOKS: [MatteLook, string, string][] = [
  ["matte", "alone", "the matte by itself"],
  ["tint", "tint", "the matte over the picture"],
  ["cut", "cut", "the picture where the matte is"],
  ["edges", "edges", "only the rim, pixel by pixel"],
  ["leaks", "leaks", "what it covers outside of one part, and holes in that; click a part"],
];

/** How the matte that is looked at is shown. */
export function MatteLooks({ onOneToOne }: { onOneToOne: () => void }) {
  const { lookingAt, set } = useSession();
  if (!("name" in lookingAt) || "source" in lookingAt) return null;
  const pick = (kind: MatteLook) => {
    set({ lookingAt: { kind, name: lookingAt.name } });
    if (kind === "edges") onOneToOne();
  };
  return (
    <div className="flex shrink-0 rounded-sm bg-control p-[2px]" role="radiogroup" aria-label="How the matte is shown">
      {LOOKS.map(([kind, label, title]) => (
        <button
          key={kind}
          type="button"
          role="radio"
          title={title}
          aria-checked={lookingAt.kind === kind}
          onClick={() => pick(kind)}
          className={`h-[22px] rounded-sm px-2 text-[11.5px] ${lookingAt.kind === kind ? "bg-lilac-ground text-lilac" : "text-quiet"}`}
        >
          {label}
        </button>
      ))}
    </div>
  );
}
