import { Layers2 } from "lucide-react";
import type { Matte } from "../../api/document";
import { Button } from "../../controls/Button";
import { type Choice, Menu } from "../../controls/Menu";
import { freshName } from "../freshName";
import { useSession } from "../session";
import { documentOf } from "../shotParts";
import { useContents } from "../useContents";
import { combine, type How, WORDS } from "./useCombine";

/** Makes a new matte of this one and another: crossed, together, or without it; materials need no matte of their own first. */
export function Combine({ id, matte }: { id: string; matte: Matte }) {
  const shot = useSession((s) => s.shot);
  const contents = useContents();
  if (!shot) return null;
  const mattes = documentOf(shot).mattes ?? {};
  const own = matte as Matte & { source?: string };
  const others = Object.entries(mattes).filter(([other]) => other !== id);
  const with_ = (how: How): Choice[] =>
    others.map(([other, one]) => ({
      key: how + other,
      label: one.name ?? other,
      onPick: () => combine(how, [id, other]),
    }));
  const layer = contents?.sources.find((one) => one.name === own.source)?.ids.find((one) => one.kind === "material");
  const materials: Choice[] = (layer?.names ?? []).map((name) => ({
    key: `material ${name}`,
    label: name,
    note: "material",
    onPick: () => {
      const there = others.find(([, one]) => isJust(one, layer?.name ?? "", name));
      if (there) return combine("all_of", [id, there[0]]);
      const made = freshName(Object.keys(mattes), name);
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
