import { ChevronDown } from "lucide-react";
import type { ShotState } from "../../api/client";
import type { Card } from "../../api/document";
import { Button } from "../../controls/Button";
import { type Choice, Menu } from "../../controls/Menu";
import { Thumb } from "../../controls/Thumb";
import { nameOfMatte, useSessionParts } from "../session";
import {
  type Channel,
  canFocus,
  cardName,
  cardsOf,
  type LookingAt,
  listedMattes,
  mattesOf,
  shownName,
  treatmentOf,
} from "../shotParts";
import { useContents } from "../useContents";
import { useRestingFrame } from "../useRestingFrame";
import { thumbAddress } from "./looks";

const CHANNELS: Channel[] = ["colour", "red", "green", "blue", "alpha", "luma"];

/** The looks at one card by itself. */
const looksOf = (card: Card): [string, LookingAt][] => [
  ["alone", { kind: "card", card: card.id, ground: "black" }],
  ["alone, on grey", { kind: "card", card: card.id, ground: "grey" }],
  ["alone, on checks", { kind: "card", card: card.id, ground: "checks" }],
  ...(card.picture?.kind === "rebuild"
    ? [["residue", { kind: "residue", card: card.id }] satisfies [string, LookingAt]]
    : []),
];

/** What of a card is nearer and farther than what is sharp. */
const focusOf = (card: Card): [string, LookingAt][] => [["focus", { kind: "focus", card: card.id }]];

/** What is looked at, in words. */
function titleOf(look: LookingAt, shot: ShotState, so_far: string): string {
  if (look.kind === "picture") return so_far;
  if (look.kind === "card") return `${cardName(shot, look.card)} alone`;
  if (look.kind === "laid")
    return `${treatmentOf(shot, look.name)?.kind ?? "what is laid"} of ${cardName(shot, look.card)}`;
  if ("card" in look) return `${look.kind} of ${cardName(shot, look.card)}`;
  if ("source" in look) return `${look.source} · ${look.name}`;
  return look.kind === "sum" ? `sum of ${look.names.length} mattes` : `matte ${nameOfMatte(look.name)}`;
}

/** What is looked at and which of its channels: one list of small pictures. */
export function LookMenu() {
  const { shot, lookingAt, channel, standing, openCard, set } = useSessionParts(
    "shot",
    "lookingAt",
    "channel",
    "standing",
    "openCard",
    "set",
  );
  const frame = useRestingFrame();
  const contents = useContents();
  if (!shot) return null;
  const small = (look: LookingAt, as: Channel = "colour") =>
    thumbAddress(shot.id, {
      ...(look.kind === "sum" ? { kind: "picture" } : look),
      revision: shot.revision,
      frame,
      scale: 8,
      channel: as,
    });
  const choice = (key: string, text: string, address: string, onPick: () => void): Choice => ({
    key,
    find: text,
    label: (
      <>
        <Thumb address={address} alt="" className="h-[22px] w-[40px] rounded-[2px] bg-black object-cover" />
        {text}
      </>
    ),
    onPick,
  });
  const picture: LookingAt = { kind: "picture" };
  const channels = CHANNELS.map((name) => choice(name, name, small(lookingAt, name), () => set({ channel: name })));
  const passes = (contents?.sources ?? []).map((source) => ({
    title: source.name,
    choices: [
      ...source.passes.map((pass) => {
        const look: LookingAt = { kind: "pass", source: source.name, name: pass.name };
        return choice(pass.name, pass.name, small(look), () => set({ lookingAt: look, channel: "colour" }));
      }),
      ...source.ids.map((layer) => {
        const look: LookingAt = { kind: "ids", source: source.name, name: layer.name };
        return choice(layer.name, layer.name, small(look), () => set({ lookingAt: look, channel: "colour" }));
      }),
    ],
  }));
  const mattes = listedMattes(shot).map(([id, matte]) => {
    const look: LookingAt = { kind: "matte", name: id };
    return choice(id, matte.name ?? id, small(look), () => set({ lookingAt: look, channel: "colour" }));
  });
  const open = cardsOf(shot).find((card) => card.id === openCard);
  const alone = open ? [...(open.treat ? [] : looksOf(open)), ...(canFocus(open) ? focusOf(open) : [])] : [];
  const stood = cardsOf(shot).find((card) => card.id === standing);
  const so_far = stood ? `picture up to ${shownName(stood)}` : "picture so far";
  const title = titleOf(lookingAt, shot, so_far);
  return (
    <Menu
      trigger={
        <Button className="min-w-0 max-w-[300px]">
          <Thumb address={small(lookingAt)} alt="" className="h-[15px] w-[26px] rounded-[2px] bg-black object-cover" />
          <span className="truncate">{mattesOf(lookingAt).length ? title : `${title} · ${channel}`}</span>
          <ChevronDown size={13} className="text-quiet" />
        </Button>
      }
      sections={[
        { title: "picture", choices: [choice("picture", so_far, small(picture), () => set({ lookingAt: picture }))] },
        ...(alone.length
          ? [
              {
                title: shownName(open as Card),
                choices: alone.map(([text, look]) =>
                  choice(text, text, small(look), () => set({ lookingAt: look, channel: "colour" })),
                ),
              },
            ]
          : []),
        { title: "channel", choices: channels },
        ...(mattes.length ? [{ title: "mattes", choices: mattes }] : []),
        ...passes,
      ]}
    />
  );
}
