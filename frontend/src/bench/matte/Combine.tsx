import { Layers2 } from "lucide-react";
import type { Matte } from "../../api/document";
import { Button } from "../../controls/Button";
import { type Choice, Menu } from "../../controls/Menu";
import { freshName } from "../freshName";
import { useSession } from "../session";
import { documentOf, listedMattes } from "../shotParts";
import { useContents } from "../useContents";
import { lastPart } from "./names";
import { combine, type How, WORDS } from "./useCombine";
import { useIdNames } from "./useOfLayer";

const MOST = 200; // in a menu; others are touched, or taken as a matte by their name

/** Makes a new matte of this one and another: crossed, together, or without it; materials need no matte of their own first. */
export function Combine({ id, matte }: { id: string; matte: Matte }) {
  const shot = useSession((s) => s.shot);
  const contents = useContents();
  const own = matte as Matte & { source?: string };
  const layer = contents?.sources.find((one) => one.name === own.source)?.ids.find((one) => one.kind === "material");
  const names = useIdNames(own.source, layer?.name);
  if (!shot) return null;
  const mattes = documentOf(shot).mattes ?? {};
  const others = listedMattes(shot).filter(([other]) => other !== id);
  const with_ = (how: How): Choice[] =>
    others.map(([other, one]) => ({
      key: how + other,
      label: one.name ?? other,
      onPick: () => combine(how, [id, other]),
    }));
  const materials: Choice[] = names.slice(0, MOST).map((name) => ({
    key: `material ${name}`,
    label: lastPart(name),
    note: "material",
    onPick: () => {
      const there = others.find(([, one]) => isJust(one, layer?.name ?? "", name));
      if (there) return combine("all_of", [id, there[0]]);
      const made = freshName(Object.keys(mattes), lastPart(name));
      const item = { id: made, kind: "id", source: own.source, layer: layer?.name, names: [name] };
      return combine("all_of", [id, made], [{ op: "insert", path: ["mattes"], item }]);
    },
  }));
  const sections = [
    ...(materials.length ? [{ title: "crossed with a material", choices: materials }] : []),
    ...(others.length
      ? (["all_of", "any_of", "except"] as const).map((how) => ({ title: WORDS[how], choices: with_(how) }))
      : []),
  ];
  if (!sections.length) return null;
  return (
    <Menu
      trigger={
        <Button className="mt-1.5">
          <Layers2 size={13} /> Combine…
        </Button>
      }
      sections={sections}
    />
  );
}

/** Whether a matte is nothing but one name of a layer, unrefined. */
const isJust = (matte: Matte, layer: string, name: string): boolean =>
  matte.kind === "id" &&
  matte.layer === layer &&
  matte.names?.length === 1 &&
  matte.names[0] === name &&
  !("refine" in matte);
