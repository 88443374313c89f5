import { Plus } from "lucide-react";
import type { Schemas } from "../../../api/client";
import type { Card } from "../../../api/document";
import { Button } from "../../../controls/Button";
import { Menu } from "../../../controls/Menu";
import { type Edit, useSessionParts } from "../../session";
import { pathOf, shownName } from "../../shotParts";
import { lightFamilies, rebuildable, rebuiltFrom } from "./lightFamilies";

type Props = {
  card: Card;
  source: Schemas["SourceData"] | undefined;
  /** The lights it has by now. */
  names: string[];
  /** What names them, where no document does yet. */
  first: Edit[];
};

/** Lights to add to a rebuild, and what else it can be made of. */
export function LightMenu({ card, source, names, first }: Props) {
  const { shot, edit } = useSessionParts("shot", "edit");
  if (!source) return null;
  const path = [...pathOf(shot, card.id), "picture"];
  // a light may be named by its kind, where no pass is called so
  const isIn = (name: string) => {
    const kind = source.passes.find((pass) => pass.name === name)?.kind ?? "";
    return names.includes(name) || (names.includes(kind) && !source.passes.some((pass) => pass.name === kind));
  };
  const families = lightFamilies(source.passes);
  const added = families.map(({ noun, names: all, parts }) => ({
    title: noun,
    choices: [...all, ...parts]
      .filter((name) => !isIn(name))
      .map((name) => ({
        key: name,
        label: name,
        onPick: () =>
          edit(
            [...first, { op: "set", path: [...path, "lights", name], value: {} }],
            `add ${name} to ${shownName(card)}`,
          ),
      })),
  }));
  const instead = rebuildable(families)
    .filter((one) => !one.names.some((name) => names.includes(name)))
    .map(({ noun, names: all }) => ({
      key: noun,
      label: `its ${all.length} ${noun} instead`,
      onPick: () =>
        edit(
          [{ op: "set", path, value: rebuiltFrom(source.name, all) }],
          `rebuild ${shownName(card)} from its ${noun}`,
        ),
    }));
  const beauty = source.passes.find((pass) => pass.kind === "beauty");
  const whole = beauty && {
    key: "beauty",
    label: "the beauty instead",
    onPick: () =>
      edit(
        [{ op: "set", path, value: { kind: "pass", source: source.name, pass: beauty.name } }],
        `${shownName(card)} shows ${beauty.name}`,
      ),
  };
  const sections = [...added, { choices: [...instead, ...(whole ? [whole] : [])] }].filter((one) => one.choices.length);
  if (!sections.length) return null;
  return (
    <Menu
      trigger={
        <Button look="ghost" className="h-[22px]! px-1.5! text-[11.5px]">
          <Plus size={12} /> light
        </Button>
      }
      sections={sections}
    />
  );
}
