import { useQuery } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../api/client";
import { useSession } from "../bench/session";

export type Lost = Schemas["LostData"];
const NONE: Lost[] = [];

/** What cards and mattes of the open shot ask of sources that these do not have. */
export function useLost(): Lost[] {
  const saved = useSession((s) => s.saved);
  const query = useQuery({
    queryKey: ["lost", saved?.id, saved?.revision],
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
