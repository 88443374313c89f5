import { History } from "lucide-react";
import { IconButton } from "../../controls/Button";
import { useSessionParts } from "../session";

/** Shows the history, or the card again. */
export const toggleHistory = (open: boolean) => ({ aside: open ? null : ("history" as const) });

/** Opens the history of the shot. */
export function HistoryButton() {
  const { aside, set } = useSessionParts("aside", "set");
  const open = aside === "history";
  return (
    <IconButton
      label="History: all steps of this shot"
      shortcut="H"
      aria-pressed={open}
      look={open ? "plain" : "ghost"}
      onClick={() => set(toggleHistory(open))}
    >
      <History size={14} />
    </IconButton>
  );
}
