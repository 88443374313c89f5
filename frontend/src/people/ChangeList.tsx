import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { ago } from "../controls/time";
import { grouped } from "./changes";

/** Who changed what of late: shots, shows, people, folders; what was done inside a shot its own history tells. */
export function ChangeList() {
  const query = useQuery({
    queryKey: ["changes"],
    queryFn: () => answer(api.GET("/api/changes", { params: { query: {} } })),
    refetchInterval: 15000,
  });
  return (
    <section aria-label="Changes">
      <h2 className="mb-2 font-semibold text-[15px]">Lately</h2>
      <ul className="flex flex-col gap-1.5">
        {grouped(query.data?.changes ?? []).map((one) => (
          <li key={one.id} className="leading-snug">
            <b>{one.person}</b> {one.words}
            {one.count > 1 && <span className="value text-quiet"> {one.count}×</span>}
            <span className="value whitespace-nowrap text-quiet"> · {ago(one.at)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
