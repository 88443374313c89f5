import { Maximize2 } from "lucide-react";
import { Button, Hint, IconButton } from "../../controls/Button";
import { NumberField } from "../../controls/NumberField";
import { treatmentOf, useSession } from "../session";
import { LookMenu } from "./LookMenu";

type Props = { zoom: number; fits: boolean; onFit: () => void; onOneToOne: () => void };

export function ViewerBar({ zoom, fits, onFit, onOneToOne }: Props) {
  const { exposure, set, before, openTreatment, shot, lookingAt } = useSession();
  const treatment = treatmentOf(shot, openTreatment);
  const matte = lookingAt.kind === "matte" || lookingAt.kind === "tint" || lookingAt.kind === "cut" ? lookingAt : null;
  return (
    <div className="flex h-9 shrink-0 items-center gap-2 border-b border-line px-2.5">
      <span className="text-quiet">looking at</span>
      <LookMenu />
      {matte && (
        <div className="flex rounded-sm bg-control p-[2px]" role="radiogroup" aria-label="How the matte is shown">
          {(["matte", "tint", "cut"] as const).map((kind) => (
            <button
              key={kind}
              type="button"
              role="radio"
              aria-checked={matte.kind === kind}
              onClick={() => set({ lookingAt: { kind, name: matte.name } })}
              className={`h-[22px] rounded-sm px-2 text-[11.5px] ${matte.kind === kind ? "bg-lilac-ground text-lilac" : "text-quiet"}`}
            >
              {{ matte: "alone", tint: "tint", cut: "cut" }[kind]}
            </button>
          ))}
        </div>
      )}
      <span className="flex-1" />
      {treatment && (
        <Hint text="Flip between before and after this treatment  (B)">
          <Button
            aria-pressed={before}
            onClick={() => set({ before: !before })}
            className={before ? "outline outline-1 outline-amber" : ""}
          >
            {before ? `before ${treatment.kind}` : `after ${treatment.kind}`}
          </Button>
        </Hint>
      )}
      <Hint text="Viewer exposure in stops: for looking only, never rendered">
        <span className="text-quiet">exposure</span>
      </Hint>
      <div className="w-[58px]">
        <NumberField
          compact
          label="Viewer exposure"
          value={exposure}
          fallback={0}
          low={-12}
          high={12}
          soft={[-6, 6]}
          step={0.25}
          onPreview={(value) => set({ exposure: value })}
          onCommit={(value) => set({ exposure: value })}
        />
      </div>
      <IconButton label="Fit the picture" shortcut="F" onClick={onFit} aria-pressed={fits}>
        <Maximize2 size={13} />
      </IconButton>
      <Hint text="One picture pixel on one screen pixel  (1)">
        <Button onClick={onOneToOne} className="value">
          1:1
        </Button>
      </Hint>
      <span className="value w-11 text-right text-quiet">{Math.round(zoom * window.devicePixelRatio * 100)} %</span>
    </div>
  );
}
