import { useInfiniteQuery } from "@tanstack/react-query";
import { answer, api, Refused, type Schemas } from "../../api/client";
import { report } from "../../controls/notices";
import { inLine, tab, useSession, useSessionParts } from "../session";
import { FLIP, letGo, WIPE } from "../viewer/ways";

export type Revision = Schemas["RevisionData"];

const AT_ONCE = 50;

/** The steps of the open shot, newest first. */
export function useHistory() {
  const { saved } = useSessionParts("saved");
  const shot_id = saved?.id ?? 0;
  const query = useInfiniteQuery({
    queryKey: ["history", shot_id, saved?.revision],
    queryFn: async ({ pageParam }) => {
      const params = { path: { shot_id }, query: { before: pageParam ?? undefined, limit: AT_ONCE } };
      return (await answer(api.GET("/api/shots/{shot_id}/revisions", { params }))).revisions;
    },
    initialPageParam: null as number | null,
    getNextPageParam: (page) => (page.length < AT_ONCE ? null : (page.at(-1)?.number ?? null)),
    placeholderData: (before) => before,
    enabled: shot_id > 0,
  });
  return { revisions: query.data?.pages.flat() ?? [], more: query.hasNextPage, older: query.fetchNextPage };
}

/** Look at a revision in the place of the picture, or no more. */
export function lookAt(revision: number | null): void {
  const { set } = useSession.getState();
  set(revision === null ? { against: "treatment", ...FLIP(false) } : { against: { revision }, ...FLIP(true) });
}

/** Look at the picture again where a revision was looked at in its place. */
export function leave(): void {
  const { against, before, set } = useSession.getState();
  if (before && typeof against === "object") set(letGo(against));
}

/** See a revision beside what the shot is now. */
export const wipeWith = (revision: number): void =>
  useSession.getState().set({ against: { revision }, ...WIPE(useSession.getState().wipe ?? 0.5) });

/** See the revision that is compared with beside another one, in the place of what the shot is now. */
export function wipeBeside(number: number): void {
  const { against, wipe, set } = useSession.getState();
  if (typeof against === "object") set({ against: { revision: against.revision, with: number }, ...WIPE(wipe ?? 0.5) });
}

/** Make the shot what it was at a revision, as one step. */
export const goBack = (number: number): Promise<void> =>
  inLine(async () => {
    const { saved, accept, load } = useSession.getState();
    if (!saved) return;
    try {
      const body = { base: saved.revision, number, gesture: crypto.randomUUID(), tab };
      const path = { shot_id: saved.id };
      accept(await answer(api.POST("/api/shots/{shot_id}/back", { params: { path }, body })));
      lookAt(null);
    } catch (error) {
      report(error);
      if (error instanceof Refused && error.code === "conflict") await load(saved.id);
    }
  });
