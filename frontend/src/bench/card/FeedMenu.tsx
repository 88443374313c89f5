import { type Card, LIGHT_PARTS, matteOf, type Treatment } from "../../api/document";
import { nameOfMatte, useSessionParts } from "../session";
import { buildOf, bundleOf, cardName, shownName } from "../shotParts";
import { useContents } from "../useContents";
import { LimitMenu } from "./ThroughMenu";

type Feed = NonNullable<Treatment["feed"]>;

/** What the light that a treatment spreads is taken from; shown as a chip. */
export function FeedMenu({ path, card, treatment }: { path: string[]; card: Card; treatment: Treatment }) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const contents = useContents();
  const name = treatment.name ?? treatment.kind;
  const feed: Feed = treatment.feed ?? "card";
  const matte = typeof feed === "object" && "matte" in feed ? matteOf(feed.matte) : null;
  const lamp = typeof feed === "object" && "card" in feed ? feed.card : null;
  const pass = typeof feed === "object" && "pass" in feed && lamp === null ? feed.pass : null;
  const use = (value: Feed | null, from: string) =>
    edit([{ op: "set", path: [...path, "feed"], value }], `${name} from ${from}`);
  const source = contents?.sources.find((one) => one.name === card.picture?.source);
  const passes = source?.passes.filter((one) => LIGHT_PARTS.includes(one.kind)) ?? [];
  const lamps = buildOf(shot, bundleOf(shot, card.id)).filter((one) => !one.treat && one.id !== card.id);
  const shown = matte
    ? nameOfMatte(matte)
    : lamp
      ? cardName(shot, lamp)
      : (pass ?? (feed === "above" ? "light above" : "all light"));
  return (
    <LimitMenu
      label={feed === "card" ? "all light: the whole card's light" : `From ${shown}`}
      shown={shown}
      matte={matte}
      chosen={feed !== "card"}
      title="light from"
      first={[
        {
          choices: [
            { key: "card", label: "the whole card's light", onPick: () => use(null, "the whole card") },
            {
              key: "above",
              label: "what the treatment above spread",
              onPick: () => use("above", "what the treatment above spread"),
            },
          ],
        },
        {
          title: "a pass",
          choices: passes.map((one) => ({
            key: one.name,
            label: one.name,
            onPick: () => use({ pass: one.name }, one.name),
          })),
        },
      ]}
      last={{
        title: "another card, as far as it is seen",
        choices: lamps.map((one) => ({
          key: one.id,
          label: shownName(one),
          onPick: () => use({ card: one.id }, shownName(one)),
        })),
      }}
      onMatte={(id) => use({ matte: id }, nameOfMatte(id))}
    />
  );
}
