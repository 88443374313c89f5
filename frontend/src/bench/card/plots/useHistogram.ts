import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../../api/client";
import { type Card, matteOf, type Treatment } from "../../../api/document";
import { useSession } from "../../session";
import { useRestingFrame } from "../../useRestingFrame";

const SCALE = 8;

/** How often each value occurs in what a treatment gets: its card without it, through its matte. By channel, 0 to 255. */
export function useHistogram(card: Card, treatment: Treatment): number[][] | undefined {
  const saved = useSession((s) => s.saved);
  const playing = useSession((s) => s.playing);
  const frame = useRestingFrame();
  const matte = treatment.through ? matteOf(treatment.through) : null;
  const query = useQuery({
    queryKey: ["histogram", saved?.id, saved?.revision, frame, card.id, treatment.id, matte],
    queryFn: () => {
      const kind = card.treat ? ("picture" as const) : ("card" as const);
      const body = { kind, card: card.id, without: treatment.id, matte, frame, scale: SCALE as 8 };
      const path = { shot_id: saved?.id ?? 0 };
      return answer(
        api.POST("/api/shots/{shot_id}/scopes", {
          params: { path },
          body: { ...body, revision: saved?.revision ?? 0, viewer: `histogram ${treatment.id}`, sequence: Date.now() },
        }),
      );
    },
    enabled: saved !== null && !playing,
    placeholderData: (before) => before,
    retry: false,
  });
  return query.data?.histogram;
}
