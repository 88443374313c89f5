import { NumberField } from "../../controls/NumberField";
import { useSession } from "../session";
import { documentOf } from "../shotParts";

type Props = {
  frames: [number, number];
  /** Behind "First frame" and "Last frame", for those who are told what a field is. */
  of?: string;
  className?: string;
  onSet: (frames: [number, number]) => void;
};

/** A first and a last frame, in this order. */
export function FrameSpan({ frames, of = "", className = "min-w-0", onSet }: Props) {
  const shot = useSession((s) => s.shot);
  if (!shot) return null;
  const { first, last } = documentOf(shot).format;
  return ([0, 1] as const).map((end) => (
    <div key={end} className={className}>
      <NumberField
        compact
        label={`${end ? "Last" : "First"} frame${of}`}
        value={frames[end]}
        fallback={end ? last : first}
        low={end ? frames[0] : -1e6}
        high={end ? 1e6 : frames[1]}
        soft={[first, last]}
        step={1}
        onPreview={() => undefined}
        onCommit={(value) => {
          const next: [number, number] = [...frames];
          next[end] = Math.round(value);
          onSet(next);
        }}
      />
    </div>
  ));
}
