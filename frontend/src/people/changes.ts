import type { Schemas } from "../api/client";

type Change = Schemas["ChangeData"];
export type Told = { id: number; person: string; words: string; at: string; count: number };

const NOUNS: Record<string, string> = {
  shows: "the show",
  shots: "the shot",
  recipes: "the recipe",
  people: "the person",
  media_folders: "the media folder",
  renders: "render",
  comments: "comment",
};
const WAYS = { insert: "added", update: "changed", delete: "removed" };
const KINDS: Record<string, string> = {
  token: "a token",
  invitation: "an invitation",
  entry: "an address to come in by",
};

/** A change in words. */
function wordsOf({ subject, way, of, detail, about, show, person }: Change): string {
  const name = String(of.name ?? of.path ?? of.id ?? "");
  const has = (key: string) => key in detail;
  if (subject === "credentials") {
    const kind = String(detail.kind);
    if (kind === "session") return way === "insert" ? "signed in" : "signed out";
    const whose = about && about !== person ? ` for ${about}` : "";
    return way === "insert" ? `made ${KINDS[kind]}${whose}` : `used or ended ${KINDS[kind]}${whose}`;
  }
  if (subject === "roles")
    return way === "delete" ? `lets ${about} into ${show} no more` : `lets ${about} ${detail.role} in ${show}`;
  if (subject === "display_names") return "named an ID";
  if (subject === "people" && way === "update" && has("password")) return `set the password of ${name}`;
  if (has("deleted_at") && way === "update")
    return `${detail.deleted_at ? "deleted" : "brought back"} ${NOUNS[subject]} ${name}`;
  if (has("removed_at") && way === "update") return `lets ${name} in no more`;
  if (subject === "shots" && way === "update" && has("show_id")) return `moved the shot ${name}`;
  if (subject === "renders") {
    const what = has("priority") && way === "update" ? "put" : has("cancel") ? "cancelled" : "changed";
    return way === "insert" ? `ordered render ${name}` : `${what} render ${name}`;
  }
  return `${WAYS[way as keyof typeof WAYS] ?? way} ${NOUNS[subject] ?? subject} ${name}`;
}

/** Changes in words; the same by the same person one after the other is told once. */
export function grouped(changes: Change[]): Told[] {
  const told: Told[] = [];
  for (const change of changes) {
    // what happens at the server itself has nobody
    const person = change.person ?? "At the server";
    const words = wordsOf(change);
    const last = told.at(-1);
    if (last && last.person === person && last.words === words) last.count += 1;
    else told.push({ id: change.id, person, words, at: change.made_at, count: 1 });
  }
  return told;
}
