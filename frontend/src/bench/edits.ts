import type { Schemas, ShotState } from "../api/client";

export type Edit = Schemas["SetValue"] | Schemas["InsertItem"] | Schemas["RemoveItem"] | Schemas["MoveItem"];

type Table = { [key: string]: unknown };
type Place = Table | unknown[];

/** Tables by name that a document may leave out; everything else that items are inserted into is a list. */
const TABLES = ["refine", "colour", "mattes", "sources", "lights", "placing", "time", "camera"];

/**
 * The document as the server will have it once it took some edits, so that what was done shows at once. The server checks
 * and has the last word; what cannot be done here is left to it. The given document stays as it is.
 */
export function withEdits(document: ShotState["document"], edits: Edit[]): ShotState["document"] {
  return edits.reduce((data, edit) => changed(data, edit.path, edit) as Table, document);
}

/** What edits that are only tried give the keys of one place: what is being dragged is shown where it is dragged to. */
export function triedAt(tried: Edit[], path: readonly string[]): Table {
  const place = path.join("/");
  const here = tried.filter((one) => one.op === "set" && one.path.slice(0, -1).join("/") === place);
  return Object.fromEntries(here.map((one) => [one.path.at(-1) ?? "", "value" in one ? one.value : undefined]));
}

const isTable = (value: unknown): value is Table =>
  typeof value === "object" && value !== null && !Array.isArray(value);

function indexOf(items: unknown[], step: string): number {
  const index = items.findIndex((item) => isTable(item) && item.id === step);
  return index >= 0 || items.some((item) => isTable(item) && "id" in item) ? index : Number(step);
}

/** A copy of a place with one edit made along a path; the same place where the path leads nowhere. */
function changed(place: unknown, path: readonly string[], edit: Edit): unknown {
  const [step, ...rest] = path;
  if (step === undefined) return place;
  if (Array.isArray(place)) {
    const index = indexOf(place, step);
    if (index < 0 || index >= place.length) return place;
    if (rest.length === 0) return inList(place, index, edit);
    return place.map((item, at) => (at === index ? changed(item, rest, edit) : item));
  }
  if (!isTable(place)) return place;
  if (rest.length === 0) return inTable(place, step, edit);
  const next = place[step] ?? (TABLES.includes(step) ? {} : undefined);
  return next === undefined ? place : { ...place, [step]: changed(next, rest, edit) };
}

function without(table: Table, key: string): Table {
  const { [key]: _gone, ...left } = table;
  return left;
}

function inTable(table: Table, key: string, edit: Edit): Place {
  if (edit.op === "remove" || (edit.op === "set" && edit.value == null)) return without(table, key);
  if (edit.op === "set") return { ...table, [key]: edit.value };
  if (edit.op === "insert") {
    const items = table[key] ?? (TABLES.includes(key) ? {} : []);
    if (isTable(items)) return { ...table, [key]: { ...items, [String(edit.item.id)]: without(edit.item, "id") } };
    return Array.isArray(items) ? { ...table, [key]: inserted(items, edit.item, edit.before) } : table;
  }
  return table;
}

function inList(items: unknown[], index: number, edit: Edit): unknown[] {
  if (edit.op === "set" && edit.value != null) return items.map((item, at) => (at === index ? edit.value : item));
  const left = items.filter((_, at) => at !== index);
  return edit.op === "move" ? inserted(left, items[index], edit.before) : left;
}

function inserted(items: unknown[], item: unknown, before: string | null | undefined): unknown[] {
  const at = before == null ? items.length : indexOf(items, before);
  return at < 0 ? items : [...items.slice(0, at), item, ...items.slice(at)];
}
