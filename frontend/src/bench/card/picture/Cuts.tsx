import { Plus, X } from "lucide-react";
import { type Card, type MatteRef, matteOf } from "../../../api/document";
import { Menu } from "../../../controls/Menu";
import { nameOfMatte, useSessionParts } from "../../session";
import { listedMattes, pathOf, shownName } from "../../shotParts";

/** The mattes a card's picture is cut by. */
export function Cuts({ card }: { card: Card }) {
  const { shot, edit } = useSessionParts("shot", "edit");
  if (!shot) return null;
  const cuts = card.cut ?? [];
  const path = [...pathOf(shot, card.id), "cut"];
  const put = (next: MatteRef[], command: string) =>
    edit([{ op: "set", path, value: next.length ? next : null }], command);
  const mattes = listedMattes(shot);
  return (
    <div className="flex min-h-[26px] flex-wrap items-center gap-1.5">
      <span className="w-[54px] text-quiet">Cut</span>
      {cuts.map((reference) => (
        <span
          key={JSON.stringify(reference)}
          className="flex items-center gap-1 rounded-sm bg-lilac-ground px-[7px] py-[2px] text-[11px] text-lilac"
        >
          {nameOfMatte(matteOf(reference))}
          <button
            type="button"
            aria-label={`Take the cut by ${nameOfMatte(matteOf(reference))} away`}
            onClick={() =>
              put(
                cuts.filter((one) => one !== reference),
                `uncut ${shownName(card)}`,
              )
            }
          >
            <X size={11} />
          </button>
        </span>
      ))}
      <Menu
        trigger={
          <button
            type="button"
            aria-label={cuts.length ? "Cut by one more matte" : "Cut by: none"}
            title="Cut by a matte"
            className="-ml-1.5 rounded-sm px-1.5 py-[2px] text-faint hover:text-text"
          >
            {cuts.length ? <Plus size={12} /> : "none"}
          </button>
        }
        sections={[
          {
            title: "cut by",
            choices: mattes.map(([id, matte]) => ({
              key: id,
              label: matte.name ?? id,
              onPick: () => put([...cuts, id], `cut ${shownName(card)} by ${nameOfMatte(id)}`),
            })),
          },
        ]}
      />
    </div>
  );
}
