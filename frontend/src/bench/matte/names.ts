/** A branch of names that are parted by / : or |, with what comes after it. */
export type Branch = { label: string; path: string; leaf: boolean; count: number; branches: Branch[] };

const PART = /[/:|]+/;

/** Whether any of the names has parts. */
export const hasParts = (names: string[]): boolean => names.some((name) => PART.test(name.replace(/^[/:|]+/, "")));

/** The last part of a name, which tells it where there is little room; a pattern is told by all of it. */
export const lastPart = (name: string): string =>
  (name.includes("*") ? undefined : name.split(PART).filter(Boolean).at(-1)) ?? name;

/** What stands before the last part of a name. */
export const partsBefore = (name: string): string =>
  name.slice(0, name.lastIndexOf(lastPart(name))).replace(/[/:|]+$/, "");

/** Names as a tree; `path` is the name up to and with the mark behind a branch, or the whole name of a leaf. */
export function treeOf(names: string[]): Branch[] {
  const root: Branch = { label: "", path: "", leaf: false, count: 0, branches: [] };
  for (const name of names) {
    let place = root;
    const marks = [...name.matchAll(/[/:|]+/g)].filter((mark) => mark.index > 0);
    const ends = [...marks.map((mark) => mark.index + mark[0].length), name.length];
    let start = 0;
    for (const end of ends) {
      if (end === start) continue;
      const path = name.slice(0, end);
      const leaf = end === name.length && !PART.test(name.at(-1) ?? "");
      let next = place.branches.find((one) => one.path === path && one.leaf === leaf);
      if (!next) {
        next = { label: name.slice(start, end).replace(/[/:|]+$/, ""), path, leaf, count: 0, branches: [] };
        place.branches.push(next);
      }
      next.count += 1;
      place = next;
      start = end;
    }
  }
  return root.branches;
}

/** The pattern of a branch, which later versions may give more names; the name itself of a leaf. */
export const patternOf = (branch: Branch): string => (branch.leaf ? branch.path : `${branch.path}*`);
