import { Sparkles, SunMedium, X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { UnderCursor } from "../../api/client";
import { Button, IconButton } from "../../controls/Button";
import { type On, useSession } from "../session";

type Props = {
  under: UnderCursor;
  at: [number, number];
  left: number;
  top: number;
  radius: number;
  onClose: () => void;
};

/** What can be done to what was touched, right there. */
export function TouchMenu({ under, at, left, top, radius, onClose }: Props) {
  const [on, setOn] = useState<On>(under.object ? "object" : "material");
  const touch = useSession((s) => s.touch);
  const first = useRef<HTMLDivElement>(null);

  useEffect(() => {
    first.current?.querySelector<HTMLButtonElement>("[data-first]")?.focus();
    const key = (event: KeyboardEvent) => {
      if (event.key === "Escape") {
        event.stopPropagation();
        onClose();
      }
    };
    window.addEventListener("keydown", key, true);
    return () => window.removeEventListener("keydown", key, true);
  }, [onClose]);

  const act = (action: "grade" | "bloom") => {
    onClose();
    touch({ x: at[0], y: at[1], radius, on, action });
  };
  const choices: { on: On; name: string; off: boolean }[] = [
    { on: "object", name: "object", off: !under.object },
    { on: "material", name: "material", off: !under.material },
    { on: "both", name: "both crossed", off: !under.object || !under.material },
  ];
  const material = under.material?.name.replaceAll("_", " ");
  return (
    <div
      ref={first}
      role="dialog"
      aria-label={`Touch ${under.object?.name ?? under.material?.name}`}
      className="absolute z-20 w-[236px] rounded-sm border border-line bg-panel p-2 shadow-xl"
      style={{ left, top }}
    >
      <div className="flex items-start gap-2">
        <div className="min-w-0 flex-1">
          <div className="truncate font-semibold">{under.object?.name ?? under.material?.name}</div>
          {under.object && material && <div className="truncate text-[11.5px] text-quiet">{material}</div>}
        </div>
        <IconButton label="Let go" shortcut="Esc" look="ghost" onClick={onClose}>
          <X size={14} />
        </IconButton>
      </div>
      <div className="mt-2 flex gap-1" role="radiogroup" aria-label="What to treat">
        {choices.map((choice) => (
          <button
            key={choice.on}
            type="button"
            role="radio"
            aria-checked={on === choice.on}
            disabled={choice.off}
            onClick={() => setOn(choice.on)}
            className={`h-[24px] rounded-sm px-2 text-[11.5px] ${on === choice.on ? "bg-lilac-ground text-lilac" : "text-quiet hover:bg-control"}`}
          >
            {choice.name}
          </button>
        ))}
      </div>
      <div className="mt-2 grid grid-cols-2 gap-1">
        <Button data-first onClick={() => act("grade")}>
          <SunMedium size={14} /> Grade
        </Button>
        <Button onClick={() => act("bloom")}>
          <Sparkles size={14} /> Bloom
        </Button>
      </div>
      <p className="mt-2 text-[11px] text-quiet">
        Goes on card <span className="text-text">{under.card}</span>
      </p>
    </div>
  );
}
