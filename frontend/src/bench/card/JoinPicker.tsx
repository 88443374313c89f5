import { ChevronDown } from "lucide-react";
import { Popover } from "radix-ui";
import { useState } from "react";
import type { Card } from "../../api/document";
import { type JoinModel, useModels } from "../../api/models";
import { Segments } from "../../controls/Segments";
import type { Edit } from "../session";
import { useSessionParts } from "../session";
import { pathOf, shownName } from "../shotParts";
import { JoinTile } from "./JoinTile";

const SPACES = [
  { value: "linear", text: "linear light", title: "colours are blended as light" },
  { value: "display", text: "display", title: "colours are blended after the sRGB curve" },
];

/** How a card meets the picture: each join as a small picture of this card, grouped by what it is for. */
export function JoinPicker({ card }: { card: Card }) {
  const models = useModels();
  const { shot, edit } = useSessionParts("shot", "edit");
  const [open, setOpen] = useState(false);
  const [over, setOver] = useState<JoinModel | null>(null);
  const kind = card.join ?? "over";
  const current = models?.joins.find((join) => join.kind === kind);
  if (!shot || !models) return null;
  const path = pathOf(shot, card.id);
  const edits = (join: JoinModel): Edit[] => [
    { op: "set", path: [...path, "join"], value: join.kind === "over" ? null : join.kind },
    // what one join was blended in is nothing that the next was asked for
    ...(card.blend_in ? [{ op: "set" as const, path: [...path, "blend_in"], value: null }] : []),
  ];
  const told = over ?? current;
  const tucked = (card.tuck ?? []).length > 0;
  return (
    <>
      <div className="mb-1 grid h-[27px] grid-cols-[78px_1fr] items-center gap-2">
        <span className="text-quiet">Join</span>
        <Popover.Root open={open} onOpenChange={setOpen}>
          <Popover.Trigger asChild>
            <button
              type="button"
              disabled={tucked}
              title={tucked ? "a tucked card is joined by over" : current?.outside}
              className="flex h-[24px] min-w-0 items-center rounded-sm bg-control px-2 text-left hover:bg-raised"
            >
              <span className="shrink-0">{current?.title.split(":")[0] ?? kind}</span>
              <span className="value ml-auto truncate pl-3 text-[10px] text-faint">{current?.formula}</span>
              <ChevronDown size={12} className="ml-1.5 shrink-0 text-quiet" />
            </button>
          </Popover.Trigger>
          <Popover.Portal>
            <Popover.Content
              side="left"
              align="end"
              collisionPadding={8}
              aria-label="Joins"
              className="z-40 flex max-h-[86vh] w-[644px] flex-col overflow-hidden rounded-sm border border-line bg-panel shadow-xl"
            >
              <div className="min-h-0 flex-1 overflow-y-auto p-2">
                {models.purposes.map((purpose) => (
                  <section key={purpose} aria-label={purpose} className="mb-1.5 flex gap-2">
                    <h4 className="heading w-[58px] shrink-0 pt-1">{purpose}</h4>
                    <div className="flex flex-wrap gap-1.5">
                      {models.joins
                        .filter((join) => join.purpose === purpose)
                        .map((join) => (
                          <JoinTile
                            key={join.kind}
                            join={join}
                            card={card.id}
                            overrides={edits(join)}
                            chosen={join.kind === kind}
                            onOver={setOver}
                            onPick={() => {
                              setOpen(false);
                              edit(edits(join), `join ${shownName(card)} by ${join.title.split(":")[0]}`);
                            }}
                          />
                        ))}
                    </div>
                  </section>
                ))}
              </div>
              <div className="h-[58px] shrink-0 border-t border-line px-3 py-2" aria-live="polite">
                <b>{told?.title}</b>
                <span className="value ml-2 text-[11px] text-quiet">{told?.formula}</span>
                <p className="truncate text-[11.5px] text-quiet">Above 1 and below 0: {told?.outside}.</p>
              </div>
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      </div>
      {current?.usual && (
        <div className="mb-1 grid h-[27px] grid-cols-[78px_1fr] items-center gap-2">
          <span className="text-quiet">Blend in</span>
          <Segments
            plain
            label="Blend in"
            name={`blend in of ${card.id}`}
            className="grid grid-cols-2 gap-1"
            shape="h-[22px]"
            choices={SPACES}
            value={card.blend_in ?? current.usual}
            onPick={(space) =>
              edit(
                [{ op: "set", path: [...path, "blend_in"], value: space === current.usual ? null : space }],
                `blend ${shownName(card)} in ${space === "linear" ? "linear light" : "display values"}`,
              )
            }
          />
        </div>
      )}
    </>
  );
}
