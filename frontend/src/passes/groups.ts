import type { Schemas } from "../api/client";
import { PICTURE_KINDS } from "../api/document";

export type PassEntry = {
  source: string;
  name: string;
  kind: string;
  detail: string;
  isIds: boolean;
  /** The files attached to the source that it lies in, by their names. */
  attached: string[];
};
type Size = { width: number; height: number };
export type Group = { title: string; passes: PassEntry[] };

const MATTE = "ids rgb_matte single_matte object_index material_index coverage".split(" ");
const DATA = "depth position normal motion uv".split(" ");
const GROUPS: [string, string[]][] = [
  ["Light and shadow", PICTURE_KINDS],
  ["IDs and mattes", MATTE],
  ["Data", DATA],
];

/** All passes with their size where it is not the usual one. */
export function entriesOf(sources: Schemas["SourceData"][], size: Size): PassEntry[] {
  const all: PassEntry[] = [];
  for (const source of sources) {
    for (const pass of source.passes) {
      const usual = pass.width === size.width && pass.height === size.height;
      const detail = `${usual ? "" : `${pass.width}×${pass.height} · `}${pass.channels.length} ch`;
      all.push({
        source: source.name,
        name: pass.name,
        kind: pass.kind,
        detail,
        isIds: false,
        attached: pass.attached ?? [],
      });
    }
    for (const layer of source.ids) {
      const detail = `${layer.ranks} ranks${layer.named ? ` · ${layer.named} names` : ""}`;
      all.push({
        source: source.name,
        name: layer.name,
        kind: "ids",
        detail,
        isIds: true,
        attached: layer.attached ?? [],
      });
    }
  }
  return all;
}

export const sameAs = (one: PassEntry) => (other: PassEntry) => one.source === other.source && one.name === other.name;

/** Passes by what they are for. */
export function groupsOf(all: PassEntry[], search: string): Group[] {
  const wanted = search.trim().toLowerCase();
  const shown = all.filter((pass) => `${pass.source} ${pass.name} ${pass.kind}`.toLowerCase().includes(wanted));
  const known = new Set(GROUPS.flatMap(([, kinds]) => kinds));
  return [
    ...GROUPS.map(([title, kinds]) => ({ title, passes: shown.filter((pass) => kinds.includes(pass.kind)) })),
    { title: "Other", passes: shown.filter((pass) => !known.has(pass.kind)) },
  ].filter((group) => group.passes.length > 0);
}
