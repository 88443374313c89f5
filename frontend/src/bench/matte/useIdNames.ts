import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";
import { useSession } from "../session";
import { useRestingFrame } from "../useRestingFrame";

/** The names of an ID layer: those of a whole scene, which may be very many, so they are asked for where they are wanted. */
export function useIdNames(source: string | undefined, layer: string | undefined): string[] {
  const shot = useSession((s) => s.shot);
  const frame = useRestingFrame();
  const query = useQuery({
    queryKey: ["id-names", shot?.id, JSON.stringify(shot?.document.sources), frame, source, layer],
    queryFn: () =>
      answer(
        api.GET("/api/shots/{shot_id}/id-names", {
          params: {
            path: { shot_id: shot?.id ?? 0 },
            query: { revision: shot?.revision ?? 0, frame, source: source ?? "", layer: layer ?? "" },
          },
        }),
      ),
    enabled: shot !== null && !!source && !!layer,
    placeholderData: (before) => before,
  });
  return query.data?.names ?? [];
}
