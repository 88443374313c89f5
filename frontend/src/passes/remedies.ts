import type { ShotState } from "../api/client";
import { SPACE_NAMES, type Space, sourcesOf } from "../api/document";
import type { Edit } from "../bench/session";
import { cardsOf, pathOf } from "../bench/shotParts";
import { counted } from "../controls/counted";
import type { Finding } from "./useCheckup";

type Remedy = { label: string; edits: Edit[] };
const WORDS: Record<string, (value: unknown) => string> = {
  kind: (value) => `Read as ${String(value).replaceAll("_", " ")}`,
  alpha: (value) => `Take the alpha of ${value}`,
  polarity: (value) => (value === "taken" ? "Read as light taken away" : "Read white as shadow"),
  repair: () => "Mend from neighbours",
  round: () => "Round by majority",
  association: (value) => (value === "multiply" ? "Multiply by alpha" : "Read as multiplied"),
  black: () => "Set levels",
  white: () => "Set levels",
  shift: () => "Move it to the edges",
  snap: () => "Snap to near or far",
  ray_focal: () => "Turn into depth along the axis",
  backdrop: () => "Take the backdrop out",
  id_layers: (value) => `Read ${value} as IDs`,
};

/** What one click does about a finding, as edits of the shot; undefined where the program can do nothing. */
export function remedyOf(shot: ShotState, finding: Finding): Remedy | undefined {
  const remedy = finding.remedy;
  if (!remedy) return undefined;
  const set = (path: string[], value: unknown): Edit => ({ op: "set", path, value });
  if (remedy.do === "rest-pass") {
    const cards = cardsOf(shot).filter((c) => c.picture?.kind === "rebuild" && c.picture.source === finding.source);
    if (!cards.length) return undefined;
    return {
      label: "Add the rest",
      edits: cards.map((card) => set([...pathOf(shot, card.id), "picture", "rest"], {})),
    };
  }
  if (remedy.do === "work-in") {
    const label = `Work in ${SPACE_NAMES[remedy.working as Space]}`;
    return { label, edits: [set(["colour", "working"], remedy.working)] };
  }
  if (remedy.do === "attached-offset" && finding.pass) {
    const attached = sourcesOf(shot.document)[finding.source]?.attached ?? {};
    const own = attached[finding.pass];
    if (!own) return undefined;
    const value = { ...attached, [finding.pass]: { ...own, offset: (own.offset ?? 0) + Number(remedy.offset) } };
    const by = Math.abs(Number(remedy.offset));
    const label = `Take it ${counted(by, "frame")} ${Number(remedy.offset) < 0 ? "earlier" : "later"}`;
    return { label, edits: [set(["sources", finding.source, "attached"], value)] };
  }
  if (remedy.do === "set-source") {
    const [name, value] = Object.entries(remedy).find(([key]) => key !== "do") ?? ["", null];
    const label = WORDS[name]?.(value) ?? "Set it";
    return { label, edits: [set(["sources", finding.source, name], value)] };
  }
  if (remedy.do !== "set") return undefined;
  const settings = Object.entries(remedy).filter(([name]) => name !== "do");
  if ("missing" in remedy)
    return { label: "Hold the nearest", edits: [set(["sources", finding.source, "missing"], remedy.missing)] };
  if ("colour" in remedy)
    return { label: `Read as ${remedy.colour}`, edits: [set(["sources", finding.source, "colour"], remedy.colour)] };
  if (Array.isArray(remedy.passes)) {
    const passes = remedy.passes.map((name) => ({ source: finding.source, name: String(name) }));
    if (typeof remedy.kind === "string") {
      const label = `Read all ${passes.length} as ${remedy.kind.replaceAll("_", " ")}s`;
      return { label, edits: severalPassEdits(shot, passes, { kind: remedy.kind }) };
    }
    const label = `Take the alpha of ${remedy.alpha} for all ${passes.length}`;
    return { label, edits: severalPassEdits(shot, passes, { alpha: remedy.alpha }) };
  }
  const pass = finding.pass;
  if (!pass) return undefined;
  const label = WORDS[settings[0]?.[0] ?? ""]?.(settings[0]?.[1]) ?? "Set it";
  return { label, edits: passEdits(shot, finding.source, pass, Object.fromEntries(settings)) };
}

/** Edits that set how a pass is read; other settings of the pass stay. */
export function passEdits(shot: ShotState, source: string, pass: string, settings: Record<string, unknown>): Edit[] {
  return severalPassEdits(shot, [{ source, name: pass }], settings);
}

/** The same setting for several passes, as one gesture. */
export function severalPassEdits(
  shot: ShotState,
  passes: { source: string; name: string }[],
  settings: Record<string, unknown>,
): Edit[] {
  const sources = sourcesOf(shot.document);
  return [...new Set(passes.map((one) => one.source))].map((source): Edit => {
    const value: Record<string, object> = { ...sources[source]?.passes };
    for (const { name } of passes.filter((one) => one.source === source)) value[name] = { ...value[name], ...settings };
    return { op: "set", path: ["sources", source, "passes"], value };
  });
}
