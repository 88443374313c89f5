import { useEffect, useRef } from "react";
import type { UnderCursor } from "../../api/client";
import { useModels } from "../../api/models";
import { useSessionParts } from "../session";
import { cardName } from "../shotParts";

type Props = {
  under: UnderCursor;
  enabled: boolean;
  onClose: () => void;
  onAct: (action: string, tucked?: string) => void;
};

/** What can be done to what was touched, by what people want; the first is a press of Enter away, each other one its key. */
export function Wishes({ under, enabled, onAct, onClose }: Props) {
  const models = useModels();
  const { shot, set } = useSessionParts("shot", "set");
  const offered = (under.actions ?? []).flatMap((kind) => models?.treatments.find((one) => one.kind === kind) ?? []);
  const wishes = models?.wishes ?? [];
  const act = useRef(onAct);
  act.current = onAct;
  const keys = useRef(offered);
  keys.current = enabled ? offered : [];
  useEffect(() => {
    const pressed = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || event.target instanceof HTMLInputElement) return;
      const found = keys.current.find((one) => one.touch?.key === event.key);
      if (!found) return;
      event.preventDefault();
      event.stopPropagation();
      act.current(found.kind);
    };
    window.addEventListener("keydown", pressed, true);
    return () => window.removeEventListener("keydown", pressed, true);
  }, []);
  return (
    <div className="mt-2 grid gap-1">
      {wishes.map((wish) => {
        const own = offered.filter((one) => one.touch?.wish === wish);
        const tucks = wish === "place" ? (under.tuckable ?? []) : [];
        if (!own.length && !tucks.length && !(wish === "place" && under.card)) return null;
        return (
          <section key={wish} aria-label={wish} className="grid grid-cols-[44px_1fr] gap-x-1.5">
            <h4 className="pt-[5px] text-[11px] text-faint">{wish}</h4>
            <div className="flex flex-wrap gap-1">
              {own.map((one) => (
                <button
                  key={one.kind}
                  type="button"
                  {...(one === offered[0] ? { "data-first": true } : {})}
                  disabled={!enabled}
                  title={one.summary}
                  onClick={() => onAct(one.kind)}
                  className="flex h-[25px] items-center gap-1.5 rounded-sm bg-control px-2 hover:bg-raised"
                >
                  {one.touch?.words ?? one.title}
                  <kbd className="value text-[10px] text-faint">{one.touch?.key}</kbd>
                </button>
              ))}
              {wish === "place" && under.card && (
                <button
                  type="button"
                  title="its handles in the picture"
                  onClick={() => {
                    onClose();
                    set({ openCard: under.card ?? null, openMatte: null, handles: true });
                  }}
                  className="flex h-[25px] items-center rounded-sm bg-control px-2 hover:bg-raised"
                >
                  Move, scale, turn
                </button>
              )}
              {tucks.map((card) => (
                <button
                  key={card}
                  type="button"
                  disabled={!enabled}
                  title="hold that card behind this, without leaks at the edges"
                  onClick={() => onAct("tuck", card)}
                  className="flex h-[25px] max-w-full items-center rounded-sm bg-control px-2 hover:bg-raised"
                >
                  <span className="truncate">Send {cardName(shot, card)} behind it</span>
                </button>
              ))}
            </div>
          </section>
        );
      })}
    </div>
  );
}
