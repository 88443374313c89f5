import { FileOutput, Flame, Layers2, Sigma, X } from "lucide-react";
import { useNavigate } from "react-router";
import { Button, IconButton } from "../../controls/Button";
import { Menu } from "../../controls/Menu";
import { useSessionParts } from "../session";
import { bake } from "./baking";
import { combine, type How } from "./useCombine";

const WAYS: [How, string][] = [
  ["all_of", "crossed: what all of them hold"],
  ["any_of", "together: what any of them holds"],
  ["except", "the first without the others"],
];

const SMALL = "h-[22px]! w-[22px]!";

/** What can be done with the chosen mattes. */
export function ChosenBar() {
  const { shotId, chosen, lookingAt, set } = useSessionParts("shotId", "chosen", "lookingAt", "set");
  const navigate = useNavigate();
  const summed = lookingAt.kind === "sum";
  return (
    <div
      role="toolbar"
      aria-label="Chosen mattes"
      className="mb-1 flex items-center gap-1 rounded-sm bg-lilac-ground px-1.5 py-1 text-[11.5px]"
    >
      <span className="whitespace-nowrap text-lilac">{chosen.length} chosen</span>
      <span className="flex-1" />
      <Button
        aria-pressed={summed}
        disabled={chosen.length < 2}
        title="do they cover everything once?"
        className={`h-[22px]! px-1.5! ${summed ? "outline outline-1 outline-lilac" : ""}`}
        onClick={() => set({ lookingAt: summed ? { kind: "picture" } : { kind: "sum", names: chosen } })}
      >
        <Sigma size={12} /> Sum
      </Button>
      <Menu
        trigger={
          <Button
            disabled={chosen.length < 2}
            aria-label="Combine them"
            title="combine them"
            className="h-[22px]! px-1.5!"
          >
            <Layers2 size={13} />
          </Button>
        }
        sections={[{ choices: WAYS.map(([how, label]) => ({ key: how, label, onPick: () => combine(how, chosen) })) }]}
      />
      <IconButton
        label="Write them out…"
        look="ghost"
        className={SMALL}
        onClick={() => navigate(`/shots/${shotId}/hand-off`)}
      >
        <FileOutput size={12} />
      </IconButton>
      <IconButton
        label="Bake them: write them once, and read them from there while they stay what they are"
        look="ghost"
        className={SMALL}
        onClick={() => bake(chosen)}
      >
        <Flame size={12} />
      </IconButton>
      <IconButton
        label="Choose none"
        look="ghost"
        className={SMALL}
        onClick={() => set({ chosen: [], ...(summed ? { lookingAt: { kind: "picture" } } : {}) })}
      >
        <X size={12} />
      </IconButton>
    </div>
  );
}
