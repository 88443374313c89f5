import type { Card, Treatment } from "../../api/document";
import { useModels } from "../../api/models";
import { Button } from "../../controls/Button";
import { type Edit, useSessionParts } from "../session";
import { pathOf, shownName } from "../shotParts";
import { useCardFacts } from "./picture/useCardFacts";

const ADDING = ["plus", "add", "screen"];

/** The treatments of a card that add light together with what it comes from. */
function useWithSource(card: Card): Treatment[] {
  const models = useModels();
  const lights = models?.treatments.filter((one) => one.stage === "light").map((one) => one.kind) ?? [];
  if (card.enabled === false || !ADDING.includes(card.join ?? "over")) return [];
  return (card.treatments ?? []).filter(
    (one) => lights.includes(one.kind) && one.enabled !== false && (one.output ?? "with_source") === "with_source",
  );
}

export const useSpreadsWithSource = (card: Card) => useWithSource(card).length > 0;

/** Light that a card behind shows already: told, and taken out so that just what is spread of it is added. */
export function DoubledLight({ card }: { card: Card }) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const spread = useWithSource(card);
  const behind = useCardFacts(card.id, spread.length > 0)?.doubled;
  if (!behind || !spread.length) return null;
  const edits = spread.flatMap((one): Edit[] => {
    const path = [...pathOf(shot, card.id), "treatments", one.id];
    const output: Edit = { op: "set", path: [...path, "output"], value: "spread_only" };
    return one.conserve ? [{ op: "set", path: [...path, "conserve"], value: null }, output] : [output];
  });
  return (
    <div role="status" className="my-1 rounded-sm border border-amber/40 px-2 py-1.5 text-amber">
      The light of this card is in {behind} already, and shows twice.
      <Button
        className="mt-1.5 h-[22px]! px-2! text-[11.5px]"
        onClick={() => edit(edits, `just what ${shownName(card)} spreads`)}
      >
        Add just what it spreads
      </Button>
    </div>
  );
}
