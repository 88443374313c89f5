import { useQuery } from "@tanstack/react-query";
import { answer, api, type Contents, type ShotState } from "../api/client";
import { useSession } from "./session";
import { useRestingFrame } from "./useRestingFrame";

/** Asks for the passes and mattes of a shot at a frame. */
export const contentsQuery = (shot: ShotState | null, frame: number) => ({
  queryKey: ["contents", shot?.id, shot?.revision, frame],
  queryFn: () =>
    answer(
      api.GET("/api/shots/{shot_id}/contents", {
        params: { path: { shot_id: shot?.id ?? 0 }, query: { revision: shot?.revision ?? 0, frame } },
      }),
    ),
});

/** The passes and mattes of the shot at the current frame; the last answer stays while a new one is on its way. */
export function useContents(): Contents | undefined {
  const shot = useSession((s) => s.shot);
  const frame = useRestingFrame();
  const playing = useSession((s) => s.playing);
  const query = useQuery({
    ...contentsQuery(shot, frame),
    enabled: shot !== null && !playing,
    placeholderData: (before) => before,
    refetchInterval: (q) => (q.state.data?.missing.length ? 4000 : false),
  });
  return query.data;
}
