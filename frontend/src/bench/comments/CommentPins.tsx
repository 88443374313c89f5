import { useSessionParts } from "../session";
import { onStage, type Placing } from "../viewer/placing";
import { isOpen, type Point, useComments } from "./useComments";

/** Points of this frame that something was said of, by their numbers; and the one that is just being said something of. */
export function CommentPins({ placing }: { placing: Placing }) {
  const { frame, openComment, aside, saying, set } = useSessionParts("frame", "openComment", "aside", "saying", "set");
  const { comments } = useComments();
  if (aside !== "comments") return null;
  const at = ({ x, y }: Point) => {
    const [left, top] = onStage(placing, [x, y]);
    return { left, top };
  };
  const here = comments.filter((one) => one.point && one.frame === frame && (isOpen(one) || one.id === openComment));
  return (
    <>
      {here.map((one) => (
        <button
          key={one.id}
          type="button"
          aria-label={`Comment ${one.number}: ${one.text.slice(0, 80)}`}
          title={one.text}
          style={at(one.point as Point)}
          onPointerDown={(event) => event.stopPropagation()}
          onPointerUp={(event) => event.stopPropagation()}
          onClick={() => set({ openComment: one.id })}
          className={`value absolute z-10 grid h-5 min-w-5 -translate-1/2 place-items-center rounded-sm border px-1 font-semibold shadow ${one.id === openComment ? "border-verdigris bg-verdigris text-[#0f1f1a]" : "border-text bg-ground/85 text-text"}`}
        >
          {one.number}
        </button>
      ))}
      {saying.point && (
        <span
          data-testid="said-of"
          className="pointer-events-none absolute z-10 size-3 -translate-1/2 rounded-sm border-2 border-verdigris outline outline-1 outline-ground"
          style={at(saying.point)}
        />
      )}
    </>
  );
}
