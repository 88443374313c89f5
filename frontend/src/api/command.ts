const LONGEST = 200; // letters, as the server keeps them

/** What was done, in words, as it stands in the history. */
export const asCommand = (words: string): string =>
  words.length > LONGEST ? `${words.slice(0, LONGEST - 1)}…` : words;
