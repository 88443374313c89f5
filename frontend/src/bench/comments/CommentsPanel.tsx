import { X } from "lucide-react";
import { useState } from "react";
import { IconButton } from "../../controls/Button";
import { Segments } from "../../controls/Segments";
import { useSession } from "../session";
import { CommentRow } from "./CommentRow";
import { toggleComments } from "./CommentsButton";
import { NewComment } from "./NewComment";
import { isOpen, useComments } from "./useComments";

/** What people say of the shot, in the place of the card. */
export function CommentsPanel() {
  const set = useSession((s) => s.set);
  const chosen = useSession((s) => s.openComment);
  const { comments, mayResolve, mayDelete } = useComments();
  const [which, setWhich] = useState<"open" | "all">("open");
  // one that was chosen in the picture is shown, even where it was resolved
  const shown = comments.filter((one) => which === "all" || isOpen(one) || one.id === chosen);
  const resolved = comments.length - comments.filter(isOpen).length;
  return (
    <aside className="flex w-[286px] shrink-0 flex-col border-l border-line bg-panel" aria-label="Comments">
      <div className="flex h-10 shrink-0 items-center gap-2 border-b border-line pr-1.5 pl-2.5">
        <b className="flex-1 text-[14px]">Comments</b>
        <Segments
          label="Which comments"
          name="which comments"
          choices={[
            { value: "open", text: `open ${comments.length - resolved}` },
            { value: "all", text: `all ${comments.length}` },
          ]}
          value={which}
          onPick={setWhich}
          plain
        />
        <IconButton label="Back to the card" look="ghost" onClick={() => set(toggleComments(true))}>
          <X size={14} />
        </IconButton>
      </div>
      <NewComment />
      <ul className="min-h-0 flex-1 overflow-y-auto">
        {shown.map((one) => (
          <CommentRow key={one.id} comment={one} mayResolve={mayResolve} mayDelete={mayDelete} />
        ))}
        {shown.length === 0 && (
          <li className="px-3 py-3 text-quiet">
            {resolved
              ? "Nothing is open: all that was said is resolved."
              : "Nobody has said anything of this shot yet."}
          </li>
        )}
      </ul>
    </aside>
  );
}
