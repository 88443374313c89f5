import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";
import type { Card } from "../../api/document";
import { useSession } from "../session";

/** Ends of a card's tucks at which the picture jumps, with the nearest frames at which it would not. */
export function usePops(card: Card) {
  const saved = useSession((s) => s.saved);
  const playing = useSession((s) => s.playing);
  const query = useQuery({
    queryKey: ["pops", saved?.id, saved?.revision, card.id],
    queryFn: () =>
      answer(
        api.GET("/api/shots/{shot_id}/cards/pops", {
          params: { path: { shot_id: saved?.id ?? 0 }, query: { revision: saved?.revision ?? 0, card: card.id } },
        }),
      ),
    enabled: saved !== null && !playing && (card.tuck ?? []).some((tuck) => tuck.frames),
    placeholderData: (before) => before,
    retry: false,
  });
  return query.data?.pops ?? [];
}
