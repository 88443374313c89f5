import { MessageSquare } from "lucide-react";
import { Hint } from "../../controls/Button";
import { useSessionParts } from "../session";
import { isOpen, useComments } from "./useComments";

/** Shows what people say, or the card again. */
export const toggleComments = (open: boolean) => ({
  aside: open ? null : ("comments" as const),
  openComment: null,
  picking: null,
});

/** Opens what people say of the shot; how many comments are open stands beside it. */
export function CommentsButton() {
  const { aside, set } = useSessionParts("aside", "set");
  const commenting = aside === "comments";
  const { comments } = useComments();
  const open = comments.filter(isOpen).length;
  const label = open ? `Comments: ${open} open` : "Comments";
  return (
    <Hint text={`${label}  (N)`}>
      <button
        type="button"
        aria-label={label}
        aria-pressed={commenting}
        onClick={() => set(toggleComments(commenting))}
        className={`inline-flex h-[26px] items-center gap-1.5 rounded-sm px-2 ${commenting ? "bg-raised text-text" : "text-quiet hover:bg-control hover:text-text"}`}
      >
        <MessageSquare size={14} />
        {open > 0 && <span className="value text-text">{open}</span>}
      </button>
    </Hint>
  );
}
