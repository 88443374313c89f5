import { useQuery } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../api/client";
import { useSession } from "../bench/session";

export type Arrived = Schemas["ArrivedData"];

/** What lies at some paths of a folder, and which sources of the open shot it may be a version of. */
export function useArrived(paths: string[], folder: string) {
  const shot = useSession((s) => s.shot);
  return useQuery({
    queryKey: ["arrived", shot?.id, shot?.revision, folder, paths],
    queryFn: () =>
      answer(
        api.POST("/api/shots/{shot_id}/arrived", {
          params: { path: { shot_id: shot?.id ?? 0 } },
          body: { revision: shot?.revision ?? 0, paths, folder },
        }),
      ),
    enabled: shot !== null && paths.length > 0,
  });
}
