import type { Card } from "../../../api/document";
import { useModels } from "../../../api/models";
import { Button } from "../../../controls/Button";
import { useSessionParts } from "../../session";
import { documentOf, pathOf, shownName } from "../../shotParts";
import { useContents } from "../../useContents";
import { FrameSpan } from "../FrameSpan";
import { Parameters } from "../Parameters";

/** Which frame of a plate is shown when: moved, faster or slower, backwards, and what comes after its last frame. */
export function PlateTime({ card }: { card: Card }) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const contents = useContents();
  const model = useModels()?.timing;
  if (!shot || !model) return null;
  const time = (card.picture?.time ?? {}) as { span?: [number, number] };
  const path = [...pathOf(shot, card.id), "picture", "time"];
  const { first, last } = documentOf(shot).format;
  const frames = contents?.sources.find((one) => one.name === card.picture?.source)?.frames ?? 1;
  if (frames < 2 && !card.picture?.time) return null;
  const put = (span: [number, number] | null) =>
    edit(
      [{ op: "set", path: [...path, "span"], value: span }],
      span ? `${shownName(card)} from ${span[0]} to ${span[1]}` : `all frames of ${shownName(card)}`,
    );
  return (
    <section aria-label="Time of the plate">
      <Parameters model={model} values={time} path={path} skip={time.span ? ["span"] : ["span", "beyond", "reverse"]} />
      {time.span ? (
        <div className="grid h-[27px] grid-cols-[78px_1fr_1fr_auto] items-center gap-2">
          <span className="text-quiet">Frames</span>
          <FrameSpan frames={time.span} onSet={put} />
          <Button look="ghost" className="h-[22px]! px-1.5! text-[11.5px]" onClick={() => put(null)}>
            all
          </Button>
        </div>
      ) : (
        <Button
          look="ghost"
          className="h-[22px]! px-1.5! text-[11.5px]"
          title="only some of its frames: held, looped or played to and fro, forwards or backwards"
          onClick={() => put([first, last])}
        >
          hold, loop or turn a span of frames…
        </Button>
      )}
      {card.picture?.time ? (
        <p className="py-1 text-[11.5px] text-quiet">
          Mattes pulled from this source follow its time where this card uses them.
        </p>
      ) : null}
    </section>
  );
}
