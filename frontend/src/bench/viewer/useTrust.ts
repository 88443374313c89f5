import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";
import { useSessionParts } from "../session";
import { mattesOf } from "../shotParts";
import { useRestingFrame } from "../useRestingFrame";

/** What is measured of the matte whose leaks are looked at, or of the sum. */
export function useTrust() {
  const { shot, lookingAt, playing } = useSessionParts("shot", "lookingAt", "playing");
  const frame = useRestingFrame();
  const wanted = lookingAt.kind === "leaks" || lookingAt.kind === "sum";
  const at = lookingAt.kind === "leaks" ? lookingAt.at : undefined;
  const names = mattesOf(lookingAt);
  const query = useQuery({
    queryKey: ["trust", shot?.id, shot?.revision, frame, names, at],
    queryFn: () =>
      answer(
        api.GET("/api/shots/{shot_id}/trust", {
          params: {
            path: { shot_id: shot?.id ?? 0 },
            query: { revision: shot?.revision ?? 0, frame, names, ...(at ? { x: at[0], y: at[1] } : {}) },
          },
        }),
      ),
    enabled: shot !== null && wanted && !playing && names.length > 0,
    placeholderData: (before) => before,
  });
  return wanted ? query.data : undefined;
}
