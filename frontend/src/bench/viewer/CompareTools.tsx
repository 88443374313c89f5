import { ChevronDown, Diff, SquareSplitHorizontal } from "lucide-react";
import { Button, Hint, IconButton } from "../../controls/Button";
import { Menu } from "../../controls/Menu";
import { useSessionParts } from "../session";
import { toggle, useComparisons } from "./compare";

/** Seeing the picture and what it is compared with: flipped, wiped, or how far both are apart. */
export function CompareTools() {
  const { before, wipe, apart, set } = useSessionParts("before", "wipe", "apart", "set");
  const { all, chosen } = useComparisons();
  if (!chosen) return null;
  const shown = apart ? `± ${chosen.was}` : before ? chosen.was : chosen.now;
  const picks = all.map(([against, one]) => ({
    key: one.was,
    label: one.was,
    note: one.was === chosen.was ? "chosen" : undefined,
    onPick: () => set({ against }),
  }));
  const history = { key: "history", label: "a revision…", onPick: () => set({ aside: "history" as const }) };
  return (
    <>
      <span className="flex min-w-0 items-center gap-px">
        {wipe === null && (
          <Hint text={`Flip between ${chosen.was} and ${chosen.now}  (B)`}>
            <Button
              aria-pressed={before}
              onClick={() => toggle("flip")}
              className={`max-w-[150px] min-w-[72px] ${before || apart || chosen.own ? "outline outline-1 outline-amber" : ""}`}
            >
              <span className="truncate">{shown}</span>
            </Button>
          </Hint>
        )}
        <Menu
          trigger={
            <IconButton label="Compare with…" className="w-[20px]! shrink-0">
              <ChevronDown size={13} className="text-quiet" />
            </IconButton>
          }
          sections={[{ title: "compare with", choices: picks }, { choices: [history] }]}
        />
      </span>
      <IconButton
        label={`Wipe between ${chosen.was} and ${chosen.now}`}
        shortcut="Shift B"
        className={`shrink-0 ${wipe === null ? "" : "text-verdigris"}`}
        aria-pressed={wipe !== null}
        onClick={() => toggle("wipe")}
      >
        <SquareSplitHorizontal size={13} />
      </IconButton>
      <IconButton
        label={`How far ${chosen.now} is from ${chosen.was}: exposure makes it brighter`}
        shortcut="D"
        className={`shrink-0 ${apart ? "text-verdigris" : ""}`}
        aria-pressed={apart}
        onClick={() => toggle("apart")}
      >
        <Diff size={13} />
      </IconButton>
    </>
  );
}
