import { useQuery } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../api/client";
import { useSession } from "../bench/session";
import { documentOf } from "../bench/shotParts";

export type Lost = Schemas["LostData"];
const NONE: Lost[] = [];

/** What cards and mattes of the open shot ask of sources that these do not have. */
export function useLost(): Lost[] {
  const saved = useSession((s) => s.saved);
  // what treatments do has no part in it: the sources are not looked into at every step of a number
  const document = saved && documentOf(saved);
  const asked = document && [document.sources, document.mattes, document.build?.map((card) => [card.id, card.picture])];
  const query = useQuery({
    queryKey: ["lost", saved?.id, asked],
    queryFn: () =>
      answer(
        api.GET("/api/shots/{shot_id}/lost", {
          params: { path: { shot_id: saved?.id ?? 0 }, query: { revision: saved?.revision ?? 0 } },
        }),
      ),
    enabled: saved !== null,
    placeholderData: (before) => before,
  });
  return query.data?.lost ?? NONE;
}
