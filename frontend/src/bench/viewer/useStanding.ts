import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";
import { useSession } from "../session";
import { useRestingFrame } from "../useRestingFrame";

/** Where a card stands on the frame the hand rests on: the box of what it shows, and what it can be lined up with. */
export function useStanding(card: string) {
  const saved = useSession((s) => s.saved);
  const frame = useRestingFrame();
  const query = useQuery({
    queryKey: ["standing", saved?.id, saved?.revision, frame, card],
    queryFn: () =>
      answer(
        api.GET("/api/shots/{shot_id}/cards/standing", {
          params: { path: { shot_id: saved?.id ?? 0 }, query: { revision: saved?.revision ?? 0, frame, card } },
        }),
      ),
    enabled: saved !== null,
    placeholderData: (before) => before,
    retry: false,
  });
  return query.data;
}
