import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api } from "../../api/client";
import { lastPart } from "../matte/names";
import { type Offer, useSessionParts } from "../session";

const FIRST = 3;

type Props = {
  at: [number, number];
  radius: number;
  /** What is offered by name already. */
  without: Offer[];
  place: { source?: string; name?: string };
  chosen: string | undefined;
  onChoose: (key: string, offer: Offer) => void;
};

/** Mattes of every kind that the passes allow here, as small pictures with what leaks; the best three first. */
export function Proposals({ at, radius, without, place, chosen, onChoose }: Props) {
  const { shot, frame } = useSessionParts("shot", "frame");
  const [all, setAll] = useState(false);
  const query = useQuery({
    queryKey: ["proposals", shot?.id, shot?.revision, frame, at, place],
    queryFn: () =>
      answer(
        api.GET("/api/shots/{shot_id}/proposals", {
          params: {
            path: { shot_id: shot?.id ?? 0 },
            query: { revision: shot?.revision ?? 0, frame, x: at[0], y: at[1], radius, ...place },
          },
        }),
      ),
    enabled: shot !== null,
  });
  const named = new Set(without.map((one) => JSON.stringify(one.parts)));
  const found = (query.data?.proposals ?? []).filter((one) => !named.has(JSON.stringify(one.parts)));
  const listed = all ? found : found.slice(0, FIRST);
  const [best] = found;
  useEffect(() => {
    if (best && !chosen) onChoose(JSON.stringify(best.parts), { titles: best.titles, parts: best.parts });
  }, [best, chosen, onChoose]);
  if (query.isPending) return <p className="mt-2 text-[11.5px] text-quiet">Looking through the passes…</p>;
  if (query.isError) return <p className="mt-2 text-[11.5px] text-coral">{query.error.message}</p>;
  if (!found.length) return <p className="mt-2 text-[11.5px] text-quiet">No pass tells anything apart here.</p>;
  return (
    <>
      <ul className="mt-2 grid gap-1" aria-label="Other ways">
        {listed.map((one) => {
          const key = JSON.stringify(one.parts);
          return (
            <li key={key}>
              <button
                type="button"
                aria-pressed={chosen === key}
                onClick={() => onChoose(key, { titles: one.titles, parts: one.parts })}
                className={`flex w-full items-center gap-2 rounded-sm p-1 text-left ${chosen === key ? "bg-lilac-ground" : "hover:bg-control"}`}
              >
                <img src={one.picture} alt="" className="w-[84px] shrink-0 rounded-[2px]" />
                <span className="min-w-0">
                  <span
                    className={`line-clamp-2 break-words ${chosen === key ? "text-lilac" : ""}`}
                    title={one.titles.join(" x ")}
                  >
                    {one.titles.map(lastPart).join(" x ").replaceAll("_", " ")}
                  </span>
                  <span className={`block text-[11px] ${one.leak > 0.02 ? "text-coral" : "text-quiet"}`}>
                    {one.leak > 0.005 ? `${Math.round(one.leak * 100)} % elsewhere` : "nothing elsewhere"}
                  </span>
                </span>
              </button>
            </li>
          );
        })}
      </ul>
      {found.length > FIRST && !all && (
        <button type="button" className="mt-1 text-[11.5px] text-quiet hover:text-text" onClick={() => setAll(true)}>
          {found.length - FIRST} more
        </button>
      )}
    </>
  );
}
