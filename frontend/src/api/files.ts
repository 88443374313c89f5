/** The file of a path as people read it: a `#` where frames have their number. */
export const fileOf = (path: string): string => (path.split("/").at(-1) ?? path).replace(/\{frame[^}]*\}/, "#");
