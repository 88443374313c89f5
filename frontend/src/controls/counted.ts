/** A number and what is counted, in the singular where it is one: `1 pass`, `3 passes`. */
export const counted = (count: number, one: string, many = `${one}${one.endsWith("s") ? "es" : "s"}`): string =>
  `${count} ${count === 1 ? one : many}`;
