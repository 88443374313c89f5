/** A name that is not taken: the stem itself, or with a number behind it. */
export function freshName(taken: string[], stem: string): string {
  let name = stem;
  for (let n = 2; taken.includes(name); n++) name = `${stem} ${n}`;
  return name;
}

/** The next id of a treatment: t and the number after the largest that is taken. */
export function freshTreatment(taken: string[]): string {
  return `t${Math.max(0, ...taken.map((id) => Number(/^t(\d+)$/.exec(id)?.[1] ?? 0))) + 1}`;
}
