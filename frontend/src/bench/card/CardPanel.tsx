import { Copy, Eye, EyeOff, Focus, Group, Trash2, Ungroup } from "lucide-react";
import { useState } from "react";
import type { Card } from "../../api/document";
import { boundsOf, useModels } from "../../api/models";
import { Button, IconButton } from "../../controls/Button";
import { NameInput } from "../../controls/NameInput";
import { dissolve, duplicate, gather, isolate, remove, rename, switchOver } from "../cardEdits";
import { useSession, useSessionParts } from "../session";
import { cardsOf, insideOf, pathOf, shownName } from "../shotParts";
import { AnimatedField } from "./AnimatedField";
import { DepthPart } from "./DepthPart";
import { JoinPicker } from "./JoinPicker";
import { NotePart } from "./NotePart";
import { PlacingPart } from "./PlacingPart";
import { PicturePart } from "./picture/PicturePart";
import { SeatPart } from "./SeatPart";
import { TreatmentList } from "./TreatmentList";
import { TuckPart } from "./TuckPart";

/** The open card from top to bottom in the order it is made; what can be done to several that are chosen together. */
export function CardPanel() {
  const { shot, openCard, marked } = useSessionParts("shot", "openCard", "marked");
  const card = cardsOf(shot).find((one) => one.id === openCard);
  return (
    <aside className="flex w-[286px] shrink-0 flex-col overflow-y-auto border-l border-line bg-panel" aria-label="Card">
      {marked.length > 1 && <Marked count={marked.length} />}
      {card ? (
        <OpenCard key={card.id} card={card} />
      ) : (
        <p className="p-3 text-quiet">Click a card in the build line to open it.</p>
      )}
    </aside>
  );
}

/** What can be done to the cards that are chosen together. */
function Marked({ count }: { count: number }) {
  const set = useSession((s) => s.set);
  return (
    <div
      className="flex shrink-0 flex-wrap items-center gap-1 border-b border-verdigris/50 bg-ground px-3 py-2"
      role="status"
    >
      <b className="mr-auto">{count} cards</b>
      <Button className="h-[22px]! px-2!" onClick={() => gather()}>
        <Group size={12} /> Bundle
      </Button>
      <IconButton label="Switch them off or on" look="ghost" onClick={switchOver}>
        <Eye size={13} />
      </IconButton>
      <IconButton label="Duplicate them" look="ghost" onClick={duplicate}>
        <Copy size={13} />
      </IconButton>
      <IconButton label="Delete them" look="ghost" onClick={() => remove()}>
        <Trash2 size={13} />
      </IconButton>
      <Button look="ghost" className="h-[22px]! px-1.5! text-[11.5px]" onClick={() => set({ marked: [] })}>
        let go
      </Button>
    </div>
  );
}

function OpenCard({ card }: { card: Card }) {
  const { shot, set, inside, lookingAt } = useSessionParts("shot", "set", "inside", "lookingAt");
  const models = useModels();
  const [naming, setNaming] = useState(false);
  const path = pathOf(shot, card.id);
  const enabled = card.enabled !== false;
  const isolated = lookingAt.kind === "card" && lookingAt.card === card.id;
  const bundled = card.picture?.kind === "bundle";
  const alone = (act: () => void) => () => {
    set({ marked: [] });
    act();
  };
  return (
    <>
      <div className="flex h-10 shrink-0 items-center gap-1 border-b border-line pr-1.5 pl-3">
        {naming ? (
          <NameInput
            autoFocus
            label="Name of the card"
            name={shownName(card)}
            className="min-w-0 flex-1"
            onName={(name) => rename(card, name)}
            onDone={() => setNaming(false)}
          />
        ) : (
          <button
            type="button"
            title="click to rename"
            onClick={() => setNaming(true)}
            className="min-w-0 truncate text-[14px] font-bold"
          >
            {shownName(card)}
          </button>
        )}
        <span className="ml-1.5 text-quiet">{card.treat ? "treat" : bundled ? "bundle" : "element"}</span>
        <span className="flex-1" />
        {bundled && (
          <IconButton label="Dissolve the bundle" look="ghost" onClick={() => dissolve(card)}>
            <Ungroup size={13} />
          </IconButton>
        )}
        <IconButton
          label={enabled ? "Switch the card off" : "Switch the card on"}
          look="ghost"
          onClick={alone(switchOver)}
        >
          {enabled ? <Eye size={14} /> : <EyeOff size={14} className="text-amber" />}
        </IconButton>
        {!card.treat && (
          <IconButton label="Look at it alone" shortcut="I" look="ghost" onClick={isolate}>
            <Focus size={13} className={isolated ? "text-verdigris" : ""} />
          </IconButton>
        )}
        <IconButton label="Duplicate the card" look="ghost" onClick={alone(duplicate)}>
          <Copy size={13} />
        </IconButton>
        <IconButton label="Delete the card" look="ghost" onClick={() => remove([card])}>
          <Trash2 size={13} />
        </IconButton>
      </div>
      {bundled && inside !== card.id && insideOf(card).length > 0 && (
        <div className="px-3 pt-2">
          <Button
            className="w-full justify-center"
            onClick={() => set({ inside: card.id, openCard: insideOf(card).at(-1)?.id })}
          >
            Open its inside
          </Button>
        </div>
      )}
      <NotePart card={card} />
      {!card.treat && <PicturePart card={card} />}
      {!card.treat && <PlacingPart card={card} />}
      <TreatmentList card={card} />
      <div className="border-t border-line px-3 py-2.5">
        {!card.treat && <TuckPart card={card} />}
        {!card.treat && <JoinPicker card={card} />}
        {models && (
          <AnimatedField
            path={[...path, "opacity"]}
            name="opacity"
            value={card.opacity}
            field={models.card.opacity}
            bounds={boundsOf(models.card.opacity)}
          />
        )}
        {models && !card.treat && <DepthPart card={card} field={models.card.depth} />}
        {!card.treat && <SeatPart card={card} />}
      </div>
    </>
  );
}
