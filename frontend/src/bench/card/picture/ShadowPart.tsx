import type { Card } from "../../../api/document";
import { Button } from "../../../controls/Button";
import { passEdits } from "../../../passes/remedies";
import { useSessionParts } from "../../session";
import { buildOf, bundleOf, documentOf, pathOf, shownName } from "../../shotParts";
import { useContents } from "../../useContents";
import { ChoiceRow } from "./ChoiceRow";
import { useCardFacts } from "./useCardFacts";

const MEANINGS = [
  { value: "light", text: "light" },
  { value: "shadow", text: "shadow" },
  { value: "taken", text: "light that was taken away" },
];

/** A shadow: which pass, what white means in it, and what it falls on. */
export function ShadowPart({ card }: { card: Card }) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const contents = useContents();
  const picture = card.picture;
  if (!shot || !picture?.source) return null;
  const source = contents?.sources.find((one) => one.name === picture.source);
  const pass =
    (picture.pass as string | undefined) ?? source?.passes.find((one) => one.kind === "shadow")?.name ?? "shadow";
  const setting = documentOf(shot).sources?.[picture.source]?.passes?.[pass];
  return (
    <>
      {picture.kind === "shadow" && (
        <ChoiceRow
          label="Pass"
          value={pass}
          choices={(source?.passes ?? []).map((one) => one.name)}
          onChoose={(name) =>
            edit(
              [{ op: "set", path: [...pathOf(shot, card.id), "picture", "pass"], value: name }],
              `shadow ${shownName(card)} from ${name}`,
            )
          }
        />
      )}
      <ChoiceRow
        label="White means"
        value={setting?.polarity ?? "light"}
        choices={MEANINGS}
        onChoose={(polarity) =>
          edit(passEdits(shot, picture.source ?? "", pass, { polarity }), `white in ${pass} means ${polarity}`)
        }
      />
      <Falls card={card} pass={pass} />
    </>
  );
}

const percent = (share: number): string => `${(share * 100).toFixed(share < 0.0995 ? 1 : 0)} %`;

/** What a shadow darkens on this frame; where that is nothing, why, and what to do. */
export function Falls({ card, pass }: { card: Card; pass: string }) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const told = useCardFacts(card.id)?.shadow;
  if (!told) return null;
  const path = pathOf(shot, card.id);
  if (told.falls > 0) {
    return <p className="py-1 text-[11.5px] text-quiet">Darkens {percent(told.falls)} of the frame here.</p>;
  }
  if (card.enabled === false) return <p className="py-1 text-[11.5px] text-quiet">The card is switched off.</p>;
  if (told.in_pass === 0)
    return <p className="py-1 text-[11.5px] text-amber">The pass darkens nothing on this frame.</p>;
  if (told.drawn === 0)
    return (
      <div role="status" className="my-1 rounded-sm border border-amber/40 px-2 py-1.5 text-amber">
        It falls on nothing: the alpha of its own render covers all that the pass darkens, and what a shadow pass holds
        on elements themselves is their own shading.
        <Button
          className="mt-1.5 h-[22px]! px-2! text-[11.5px]"
          onClick={() =>
            edit(
              [
                {
                  op: "set",
                  path: [...path, "picture"],
                  value: { kind: "pass", source: card.picture?.source, pass },
                },
                { op: "set", path: [...path, "join"], value: "multiply" },
              ],
              `multiply ${pass} whole`,
            )
          }
        >
          Multiply the whole pass instead
        </Button>
      </div>
    );
  const cards = buildOf(shot, bundleOf(shot, card.id));
  const over = cards.findIndex((one) => shownName(one) === told.behind);
  return (
    <div role="status" className="my-1 rounded-sm border border-amber/40 px-2 py-1.5 text-amber">
      It falls on nothing that is seen{told.behind ? `: ${told.behind} hides all of it` : " here"}.
      {over >= 0 && (
        <Button
          className="mt-1.5 h-[22px]! px-2! text-[11.5px]"
          onClick={() =>
            edit(
              [{ op: "move", path, before: cards[over + 1]?.id ?? null }],
              `move ${shownName(card)} in front of ${told.behind}`,
            )
          }
        >
          Put it in front of {told.behind}
        </Button>
      )}
    </div>
  );
}
