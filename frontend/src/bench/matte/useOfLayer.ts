import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";
import { useSession } from "../session";
import { useRestingFrame } from "../useRestingFrame";

/** What is asked of an ID layer at the frame, and under which key the answer is kept; none where something of it is not told. */
function useAsked(source: string | undefined, layer: string | undefined) {
  const shot = useSession((s) => s.shot);
  const frame = useRestingFrame();
  return {
    there: shot !== null && !!source && !!layer,
    key: [shot?.id, JSON.stringify(shot?.document.sources), frame, source, layer],
    params: {
      path: { shot_id: shot?.id ?? 0 },
      query: { revision: shot?.revision ?? 0, frame, source: source ?? "", layer: layer ?? "" },
    },
  };
}

/** The names of an ID layer: those of a whole scene, which may be very many, so they are asked for where they are wanted. */
export function useIdNames(source: string | undefined, layer: string | undefined): string[] {
  const { there, key, params } = useAsked(source, layer);
  const query = useQuery({
    queryKey: ["id-names", ...key],
    queryFn: () => answer(api.GET("/api/shots/{shot_id}/id-names", { params })),
    enabled: there,
    placeholderData: (before) => before,
  });
  return query.data?.names ?? [];
}

/** How much of this frame each ID of a layer covers, by name. */
export function usePresent(
  source: string | undefined,
  layer: string | undefined,
  wanted: boolean,
): Map<string, number> {
  const { there, key, params } = useAsked(source, layer);
  const query = useQuery({
    queryKey: ["ids", ...key],
    queryFn: () => answer(api.GET("/api/shots/{shot_id}/ids", { params })),
    enabled: there && wanted,
    placeholderData: (before) => before,
  });
  return new Map((wanted ? (query.data?.ids ?? []) : []).map((one) => [one.name, one.area]));
}
