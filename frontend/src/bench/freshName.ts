/** A name that is not taken: the stem itself, or with a number behind it. */
export function freshName(taken: string[], stem: string): string {
  let name = stem;
  for (let n = 2; taken.includes(name); n++) name = `${stem} ${n}`;
  return name;
}
