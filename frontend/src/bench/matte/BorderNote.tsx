import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";
import type { Matte } from "../../api/document";
import { useSession } from "../session";
import { useRestingFrame } from "../useRestingFrame";

const LEAST = 0.005;

/** How much of a matte is only borders that what it crosses shares with others; null where it is not crossed of such layers. */
export async function borderLeak(shotId: number, revision: number, frame: number, matte: string) {
  const query = { revision, frame, matte };
  const told = await answer(api.GET("/api/shots/{shot_id}/borders", { params: { path: { shot_id: shotId }, query } }));
  return told.leak !== null && told.leak > LEAST ? told.leak : null;
}

export const borderWords = (leak: number): string =>
  `${leak < 0.01 ? "under 1" : Math.round(leak * 100)} % of it is only rims: where other objects of the material, or other materials, stand right beside, their shared borders get in. Choke it, or take the other objects out`;

/** Says it where an object crossed with a material leaks along shared borders. */
export function BorderNote({ id, matte }: { id: string; matte: Matte }) {
  const saved = useSession((s) => s.saved);
  const frame = useRestingFrame();
  const playing = useSession((s) => s.playing);
  const query = useQuery({
    queryKey: ["borders", saved?.id, saved?.revision, frame, id],
    queryFn: () => borderLeak(saved?.id ?? 0, saved?.revision ?? 0, frame, id),
    enabled: saved !== null && !playing && matte.kind === "combined" && matte.how === "all_of",
    placeholderData: (before) => before,
  });
  const leak = query.data;
  if (leak === null || leak === undefined) return null;
  return (
    <p role="status" className="mb-1.5 rounded-sm border border-amber/40 px-2 py-1 text-amber">
      About {borderWords(leak)}.
    </p>
  );
}
