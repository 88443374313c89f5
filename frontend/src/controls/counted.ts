/** A number and what is counted, in the singular where it is one: `1 pass`, `3 passes`. */
export const counted = (count: number, one: string): string =>
  `${count} ${one}${count === 1 ? "" : one.endsWith("s") ? "es" : "s"}`;
