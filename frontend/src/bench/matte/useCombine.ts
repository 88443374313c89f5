import type { Matte } from "../../api/document";
import { freshName } from "../freshName";
import { type Edit, useSession } from "../session";
import { documentOf } from "../shotParts";
import { addMatte } from "./adding";

export type How = "all_of" | "any_of" | "except";
export const WORDS: Record<How, string> = { all_of: "crossed with", any_of: "together with", except: "without" };
const SIGNS: Record<How, string> = { all_of: "x", any_of: "+", except: "-" };

/** Makes a new matte of several and opens it; `first` makes what is not there yet. */
export async function combine(how: How, parts: string[], first: Edit[] = []): Promise<void> {
  const { shot, set } = useSession.getState();
  if (!shot || parts.length < 2) return;
  const mattes: Record<string, Matte> = documentOf(shot).mattes ?? {};
  const names = parts.map((part) => mattes[part]?.name ?? part);
  const id = freshName([...Object.keys(mattes), ...parts], names.join(` ${SIGNS[how]} `));
  const command = names.join(` ${WORDS[how]} `);
  if (await addMatte({ id, kind: "combined", how, mattes: parts }, command, first)) set({ chosen: [] });
}
