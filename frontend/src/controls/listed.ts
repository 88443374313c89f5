const MOST = 4;

/** Names one after the other; of many the first few, and how many more there are. */
export const listed = (names: readonly string[]): string =>
  names.length > MOST + 1 ? `${names.slice(0, MOST).join(", ")} and ${names.length - MOST} more` : names.join(", ");
