import type { Role } from "./useMe";

/** What each role lets somebody do; each holds those before it. */
export const MEANINGS: Record<Role, string> = {
  look: "sees the shots and their renders, and leaves comments",
  work: "changes shots, takes pictures in, keeps recipes",
  "hand off": "renders, and fetches what was written",
  own: "names, moves and deletes shots, and gives roles",
};
