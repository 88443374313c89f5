import { ChartArea, Maximize2, RectangleHorizontal } from "lucide-react";
import { Button, Hint, IconButton } from "../../controls/Button";
import { NumberField } from "../../controls/NumberField";
import { useSessionParts } from "../session";
import { documentOf } from "../shotParts";
import { CompareTools } from "./CompareTools";
import { LookMenu } from "./LookMenu";
import { MatteLooks } from "./MatteLooks";
import { useLying, useView } from "./view";

export function ViewerBar({ zoom }: { zoom: number }) {
  const { free } = useLying();
  const { fit, oneToOne } = useView.getState();
  const { exposure, set, scopes } = useSessionParts("scopes", "exposure", "set");
  return (
    <div className="flex h-9 shrink-0 items-center gap-2 border-b border-line px-2.5">
      <span className="shrink-0 text-quiet">looking at</span>
      <LookMenu />
      <MatteLooks />
      <span className="flex-1" />
      <CompareTools />
      <Hint text="Viewer exposure in stops: for looking only, never rendered">
        <span className="text-quiet">exposure</span>
      </Hint>
      <div className="w-[58px] shrink-0">
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
      <IconButton
        label="Scopes"
        shortcut="S"
        className="shrink-0"
        aria-pressed={scopes}
        onClick={() => set({ scopes: !scopes })}
      >
        <ChartArea size={13} />
      </IconButton>
      <PixelShape />
      <IconButton label="Fit the picture" shortcut="F" className="shrink-0" onClick={fit} aria-pressed={free === null}>
        <Maximize2 size={13} />
      </IconButton>
      <Hint text="One picture pixel on one screen pixel  (1)">
        <Button onClick={oneToOne} className="value">
          1:1
        </Button>
      </Hint>
      <span className="value w-11 shrink-0 text-right whitespace-nowrap text-quiet">
        {Math.round(zoom * window.devicePixelRatio * 100)} %
      </span>
    </div>
  );
}

/** Only where the shot's pixels are not square: whether they are shown so nevertheless. */
function PixelShape() {
  const { shot } = useSessionParts("shot");
  const square = useView((s) => s.square);
  const aspect = shot ? (documentOf(shot).format.pixel_aspect ?? 1) : 1;
  if (aspect === 1) return null;
  const shown = Number(aspect.toFixed(3));
  return (
    <Hint text={`Pixels ${shown} times as wide as high: shown so, or square as they are computed`}>
      <Button
        aria-label={`Pixels ${shown} times as wide as high`}
        aria-pressed={!square}
        onClick={() => useView.setState({ square: !square })}
        className="value"
      >
        <RectangleHorizontal size={14} />
        {shown}
      </Button>
    </Hint>
  );
}
