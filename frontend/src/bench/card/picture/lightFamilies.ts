import { LIGHT_GROUP, LIGHT_PASSES } from "../../../api/document";

/** Passes of a source that a beauty may be parted into, by what they are called together. */
export type LightFamily = {
  noun: "light passes" | "light groups";
  names: string[];
  /** Passes that are a part of one of these, as direct light of all diffuse light. */
  parts: string[];
};

/** How a source's beauty is parted: by how light comes from what it falls on, and by lamps. */
export function lightFamilies(passes: readonly { name: string; kind: string; part?: boolean }[]): LightFamily[] {
  const of = (kinds: string[], part: boolean) =>
    passes.filter((pass) => kinds.includes(pass.kind) && (pass.part ?? false) === part).map((pass) => pass.name);
  return [
    { noun: "light passes", names: of(LIGHT_PASSES, false), parts: of(LIGHT_PASSES, true) },
    { noun: "light groups", names: of([LIGHT_GROUP], false), parts: [] },
  ];
}

/** Those that more than one pass is of: a beauty can be rebuilt from them. */
export const rebuildable = (families: LightFamily[]): LightFamily[] => families.filter((one) => one.names.length > 1);

/** A picture that is the sum of some passes, each as it was rendered. */
export const rebuiltFrom = (source: string, names: string[]) => ({
  kind: "rebuild",
  source,
  lights: Object.fromEntries(names.map((name) => [name, {}])),
});
