import { ChevronDown, Copy, Eye, EyeOff, Trash2 } from "lucide-react";
import { answer, api } from "../../api/client";
import type { Card } from "../../api/document";
import { boundsOf, useModels } from "../../api/models";
import { IconButton } from "../../controls/Button";
import { Menu } from "../../controls/Menu";
import { report, told } from "../../controls/notices";
import { freshName } from "../freshName";
import { type Edit, useSession, useSessionParts } from "../session";
import { cardsOf, shownName } from "../shotParts";
import { AnimatedField } from "./AnimatedField";
import { PlacingPart } from "./PlacingPart";
import { PicturePart } from "./picture/PicturePart";
import { TreatmentList } from "./TreatmentList";

/** The open card from top to bottom in the order it is made. */
export function CardPanel() {
  const { shot, openCard } = useSessionParts("shot", "openCard");
  const card = cardsOf(shot).find((one) => one.id === openCard);
  return (
    <aside className="flex w-[286px] shrink-0 flex-col overflow-y-auto border-l border-line bg-panel" aria-label="Card">
      {card ? (
        <OpenCard key={card.id} card={card} />
      ) : (
        <p className="p-3 text-quiet">Click a card in the build line to open it.</p>
      )}
    </aside>
  );
}

function OpenCard({ card }: { card: Card }) {
  const { edit, shot } = useSessionParts("edit", "shot");
  const models = useModels();
  const path = ["build", card.id];
  const enabled = card.enabled !== false;
  const copy = () => {
    const taken = new Set(cardsOf(shot).flatMap((one) => [one.id, ...(one.treatments ?? []).map((t) => t.id)]));
    const fresh = (stem: string) => {
      const name = freshName([...taken], `${stem} copy`);
      taken.add(name);
      return name;
    };
    const item = {
      ...card,
      id: fresh(card.id),
      treatments: (card.treatments ?? []).map((t) => ({ ...t, id: fresh(t.id) })),
    };
    const cards = cardsOf(shot);
    const next = cards[cards.findIndex((one) => one.id === card.id) + 1]?.id ?? null;
    edit([{ op: "insert", path: ["build"], item, before: next }], `duplicate card ${shownName(card)}`);
  };
  const opacity = models?.card;
  return (
    <>
      <div className="flex h-10 shrink-0 items-center gap-1 border-b border-line pr-1.5 pl-3">
        <b className="min-w-0 truncate text-[14px]">{shownName(card)}</b>
        <span className="ml-1.5 text-quiet">{card.treat ? "treat" : "element"}</span>
        <span className="flex-1" />
        <IconButton
          label={enabled ? "Switch the card off" : "Switch the card on"}
          look="ghost"
          onClick={() =>
            edit(
              [{ op: "set", path: [...path, "enabled"], value: enabled ? false : null }],
              `${enabled ? "switch off" : "switch on"} card ${shownName(card)}`,
            )
          }
        >
          {enabled ? <Eye size={14} /> : <EyeOff size={14} className="text-amber" />}
        </IconButton>
        <IconButton label="Duplicate the card" look="ghost" onClick={copy}>
          <Copy size={13} />
        </IconButton>
        <IconButton label="Delete the card" look="ghost" onClick={() => deleteCard(card)}>
          <Trash2 size={13} />
        </IconButton>
      </div>
      {!card.treat && <PicturePart card={card} />}
      {!card.treat && <PlacingPart card={card} />}
      <TreatmentList card={card} />
      <div className="border-t border-line px-3 py-2.5">
        {!card.treat && (
          <div className="mb-1 grid h-[27px] grid-cols-[78px_1fr] items-center gap-2">
            <span className="text-quiet">Join</span>
            <JoinMenu card={card} />
          </div>
        )}
        {opacity && (
          <AnimatedField
            path={[...path, "opacity"]}
            name="opacity"
            value={card.opacity}
            field={{ ...opacity, title: "Opacity" }}
            bounds={boundsOf(opacity)}
          />
        )}
      </div>
    </>
  );
}

/** Deletes a card; what looks at its picture goes with it, and is named beside the way back. */
async function deleteCard(card: Card): Promise<void> {
  const { saved, edit, travel } = useSession.getState();
  if (!saved) return;
  const name = shownName(card);
  try {
    const found = await answer(
      api.GET("/api/shots/{shot_id}/cards/removal", {
        params: { path: { shot_id: saved.id }, query: { revision: saved.revision, card: card.id } },
      }),
    );
    if (!(await edit(found.edits as Edit[], `delete card ${name}`)) || !found.with_it.length) return;
    told(`Deleted card ${name}, and with it ${found.with_it.join(", ")}`, () => travel("undo"));
  } catch (error) {
    report(error);
  }
}

function JoinMenu({ card }: { card: Card }) {
  const models = useModels();
  const edit = useSession((s) => s.edit);
  const current = models?.joins.find((join) => join.kind === (card.join ?? "over"));
  return (
    <Menu
      trigger={
        <button
          type="button"
          className="flex h-[24px] items-center rounded-sm bg-control px-2 text-left hover:bg-raised"
        >
          {current?.title ?? card.join}
          <span className="value ml-auto truncate pl-3 text-[10px] text-faint">{current?.formula}</span>
          <ChevronDown size={12} className="ml-1.5 shrink-0 text-quiet" />
        </button>
      }
      sections={[
        {
          choices: (models?.joins ?? []).map((join) => ({
            key: join.kind,
            label: join.title,
            note: join.formula,
            onPick: () =>
              edit(
                [{ op: "set", path: ["build", card.id, "join"], value: join.kind === "over" ? null : join.kind }],
                `join ${shownName(card)} by ${join.title}`,
              ),
          })),
        },
      ]}
    />
  );
}
