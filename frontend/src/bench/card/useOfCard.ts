import { useQuery } from "@tanstack/react-query";
import { useSession } from "../session";
import { useRestingFrame } from "../useRestingFrame";

type Params = { path: { shot_id: number }; query: { revision: number; frame: number; card: string } };

/** What is measured of a card on the frame the hand rests on, under a name of its own; not asked for while it is not `wanted`. */
export function useOfCard<Told>(name: string, card: string, wanted: boolean, ask: (params: Params) => Promise<Told>) {
  const saved = useSession((s) => s.saved);
  const playing = useSession((s) => s.playing);
  const frame = useRestingFrame();
  return useQuery({
    queryKey: [name, saved?.id, saved?.revision, frame, card],
    queryFn: () => ask({ path: { shot_id: saved?.id ?? 0 }, query: { revision: saved?.revision ?? 0, frame, card } }),
    enabled: saved !== null && !playing && wanted,
    placeholderData: (before) => before,
    retry: false,
  });
}
