import type { Session } from "../session";
import type { Against } from "../shotParts";

/** Ways to see both; only one of them at a time. */
export const FLIP = (on: boolean): Partial<Session> => ({ before: on, wipe: null, apart: false });
export const WIPE = (at: number | null): Partial<Session> => ({ wipe: at, before: false, apart: false });
export const APART = (on: boolean): Partial<Session> => ({ apart: on, before: false, wipe: null });

/** Whether two revisions are compared with one another, neither of them being the picture. */
export const isPair = (against: Against): boolean => typeof against === "object" && against.with !== undefined;

/** The picture itself again, whatever was seen in its place or beside it; of two revisions that were compared the first stays chosen. */
export const letGo = (against: Against): Partial<Session> => ({
  ...FLIP(false),
  against: typeof against === "object" ? { revision: against.revision } : against,
});
