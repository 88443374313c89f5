import { useQuery } from "@tanstack/react-query";
import { answer, api, type Schemas, type ShotState } from "../api/client";
import { useSession } from "../bench/session";
import { documentOf } from "../bench/shotParts";

export type Lost = Schemas["LostData"];
const NONE: Lost[] = [];

const versions = new WeakMap<ShotState, number>();
let newest = { told: "", version: 0 };

/**
 * A number that is another one whenever what can be lost may be: what treatments do has no part in it, so that the sources
 * are not looked into at every step of a number. Worked out once for each revision, however many rows ask.
 */
function versionOf(shot: ShotState): number {
  const known = versions.get(shot);
  if (known !== undefined) return known;
  const { sources, mattes, build } = documentOf(shot);
  const told = JSON.stringify([shot.id, sources, mattes, build?.map((card) => [card.id, card.name, card.picture])]);
  if (told !== newest.told) newest = { told, version: newest.version + 1 };
  versions.set(shot, newest.version);
  return newest.version;
}

/** What cards and mattes of the open shot ask of sources that these do not have. */
export function useLost(): Lost[] {
  const saved = useSession((s) => s.saved);
  const query = useQuery({
    queryKey: ["lost", saved?.id, saved && versionOf(saved)],
    queryFn: () =>
      answer(
        api.GET("/api/shots/{shot_id}/lost", {
          params: { path: { shot_id: saved?.id ?? 0 }, query: { revision: saved?.revision ?? 0 } },
        }),
      ),
    enabled: saved !== null,
    placeholderData: (before) => before,
  });
  return query.data?.lost ?? NONE;
}
