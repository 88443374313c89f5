import { useEffect, useRef, useState } from "react";
import type { JoinModel } from "../../api/models";
import { type Edit, useSession } from "../session";
import { look } from "../viewer/looks";

type Props = {
  join: JoinModel;
  card: string;
  overrides: Edit[];
  chosen: boolean;
  onOver: (join: JoinModel | null) => void;
  onPick: () => void;
};

/** A join as the picture would be after the card by it. */
export function JoinTile({ join, card, overrides, chosen, onOver, onPick }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [failed, setFailed] = useState<string | null>(null);
  // the tile is of what was there when it was opened
  const asked = useRef(overrides);
  useEffect(() => {
    const { saved, frame, overrides: pending } = useSession.getState();
    if (!saved) return;
    let left = false;
    look(saved.id, {
      revision: saved.revision,
      frame,
      kind: "picture",
      card,
      scale: 8,
      viewer: `join ${join.kind}`,
      sequence: Date.now(),
      priority: "thumbnail",
      overrides: [...pending, ...asked.current],
    })
      .then((found) => {
        const to = canvas.current;
        if (!found || left || !to) return;
        to.width = found.bitmap.width;
        to.height = found.bitmap.height;
        to.getContext("2d")?.drawImage(found.bitmap, 0, 0);
      })
      .catch((error: unknown) => setFailed(error instanceof Error ? error.message : "it cannot be shown"));
    return () => {
      left = true;
    };
  }, [card, join.kind]);
  return (
    <button
      type="button"
      aria-pressed={chosen}
      aria-label={join.title}
      title={failed ?? undefined}
      onClick={onPick}
      onPointerEnter={() => onOver(join)}
      onPointerLeave={() => onOver(null)}
      onFocus={() => onOver(join)}
      onBlur={() => onOver(null)}
      className={`w-[84px] overflow-hidden rounded-sm border bg-stage text-left hover:border-quiet ${chosen ? "border-verdigris" : "border-line"}`}
    >
      <canvas ref={canvas} className="block h-[47px] w-full object-cover" />
      <span className={`block truncate px-1.5 py-0.5 text-[11px] ${chosen ? "text-verdigris" : "text-quiet"}`}>
        {join.title.split(/[:,]/)[0]}
      </span>
    </button>
  );
}
