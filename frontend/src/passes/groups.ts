import type { Schemas } from "../api/client";
import { LIGHT_KINDS } from "../api/document";

export type PassEntry = {
  source: string;
  name: string;
  kind: string;
  index: number;
  detail: string;
  isIds: boolean;
};
type Size = { width: number; height: number };
export type Group = { title: string; passes: PassEntry[] };

const LIGHT = [...LIGHT_KINDS, ..."shadow occlusion line surface_colour".split(" ")];
const MATTE = "ids rgb_matte single_matte object_index material_index coverage".split(" ");
const DATA = "depth position normal motion uv".split(" ");
const GROUPS: [string, string[]][] = [
  ["Light and shadow", LIGHT],
  ["IDs and mattes", MATTE],
  ["Data", DATA],
];

/** Passes by what they are for, with their size where it is not the usual one; `index` is the place of each in the contact sheet. */
export function groupsOf(sources: Schemas["SourceData"][], search: string, size: Size): Group[] {
  const all: PassEntry[] = [];
  let index = 0;
  for (const source of sources) {
    for (const pass of source.passes) {
      const usual = pass.width === size.width && pass.height === size.height;
      const detail = `${usual ? "" : `${pass.width}×${pass.height} · `}${pass.channels.length} ch`;
      all.push({ source: source.name, name: pass.name, kind: pass.kind, index: index++, detail, isIds: false });
    }
    for (const layer of source.ids) {
      const detail = `${layer.ranks} ranks${layer.names ? ` · ${layer.names.length} names` : ""}`;
      all.push({ source: source.name, name: layer.name, kind: "ids", index: index++, detail, isIds: true });
    }
  }
  const wanted = search.trim().toLowerCase();
  const shown = all.filter((pass) => `${pass.source} ${pass.name} ${pass.kind}`.toLowerCase().includes(wanted));
  const known = new Set(GROUPS.flatMap(([, kinds]) => kinds));
  return [
    ...GROUPS.map(([title, kinds]) => ({ title, passes: shown.filter((pass) => kinds.includes(pass.kind)) })),
    { title: "Other", passes: shown.filter((pass) => !known.has(pass.kind)) },
  ].filter((group) => group.passes.length > 0);
}
