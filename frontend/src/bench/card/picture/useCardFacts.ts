import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../../api/client";
import { useSession } from "../../session";
import { useRestingFrame } from "../../useRestingFrame";

/** What is measured of a card's picture on the frame the hand rests on; not asked for while it is not `wanted`. */
export function useCardFacts(card: string, wanted = true) {
  const saved = useSession((s) => s.saved);
  const playing = useSession((s) => s.playing);
  const frame = useRestingFrame();
  const query = useQuery({
    queryKey: ["card facts", saved?.id, saved?.revision, frame, card],
    queryFn: () =>
      answer(
        api.GET("/api/shots/{shot_id}/card-facts", {
          params: { path: { shot_id: saved?.id ?? 0 }, query: { revision: saved?.revision ?? 0, frame, card } },
        }),
      ),
    enabled: saved !== null && !playing && wanted,
    placeholderData: (before) => before,
    retry: false,
  });
  return query.data;
}
