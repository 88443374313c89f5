import { useQuery } from "@tanstack/react-query";
import type { ShotState } from "../api/client";
import type { Edit } from "../bench/session";
import { documentOf } from "../bench/shotParts";
import { contentsQuery } from "../bench/useContents";
import { listed } from "../controls/listed";
import { Ticked } from "../controls/Ticked";

/** Sources whose pictures were made for a display and are read by the sRGB curve: another view would show them otherwise. */
export function useMadeForDisplay(shot: ShotState, wanted: boolean): string[] {
  const { sources, format } = documentOf(shot);
  const query = useQuery({ ...contentsQuery(shot, format.first), enabled: wanted });
  if (!wanted) return [];
  const codes = query.data?.sources.filter((one) => one.codes) ?? [];
  return codes.map((one) => one.name).filter((name) => (sources?.[name]?.colour ?? "auto") === "auto");
}

/** The edit that has a source read by the inverse of the shot's view, so that it shows as it was made to. */
export const readByView = (source: string): Edit => ({
  op: "set",
  path: ["sources", source, "colour"],
  value: "display",
});

type Props = { sources: string[]; on: boolean; onTick: (on: boolean) => void };

/** What would look flatter through another view, and whether it is to show as it does now. */
export function MadeForDisplay({ sources, on, onTick }: Props) {
  if (!sources.length) return null;
  return (
    <div className="px-5 pb-3">
      <Ticked on={on} onTick={onTick}>
        <span>Have {listed(sources)} show as now</span>
        <span className="text-quiet">
          {sources.length > 1 ? "They were" : "It was"} made for a display, and would look flatter and darker through
          this view.
        </span>
      </Ticked>
    </div>
  );
}
