import { queryOptions, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas, type ShotState } from "../api/client";
import { useSession } from "../bench/session";
import { report } from "../controls/notices";

export type Finding = Schemas["FindingData"];
export type Checkup = Schemas["CheckupData"];

const NONE: Finding[] = [];

export const working = (checkup: Checkup | undefined) => checkup?.state === "queued" || checkup?.state === "running";

function queryOf(shot: ShotState | null) {
  const params = { params: { path: { shot_id: shot?.id ?? 0 } } };
  return queryOptions({
    queryKey: ["checkup", shot?.id, shot?.revision],
    queryFn: () => answer(api.GET("/api/shots/{shot_id}/checkup", params)),
    enabled: shot !== null,
    placeholderData: (before: Checkup | undefined) => before,
    staleTime: 1000,
  });
}

/** What the check-up found last. Asks once; `useCheckup`, of which a screen has one or two, keeps it up to date. */
export function useFindings(): Finding[] {
  return useQuery(queryOf(useSession((s) => s.shot))).data?.findings ?? NONE;
}

/** The check-up of the open shot, asked for again and again: how far it is, and ordering or stopping it. */
export function useCheckup() {
  const shot = useSession((s) => s.shot);
  const queries = useQueryClient();
  const params = { params: { path: { shot_id: shot?.id ?? 0 } } };
  const query = useQuery({
    ...queryOf(shot),
    refetchInterval: (q) => (working(q.state.data) ? 500 : 10000),
  });
  const act = async (address: "/api/shots/{shot_id}/checkup" | "/api/shots/{shot_id}/checkup/cancel") => {
    try {
      queries.setQueryData(queryOf(shot).queryKey, await answer(api.POST(address, params)));
    } catch (error) {
      report(error);
    }
  };
  return {
    checkup: query.data,
    order: () => act("/api/shots/{shot_id}/checkup"),
    cancel: () => act("/api/shots/{shot_id}/checkup/cancel"),
  };
}

export const SEVERITY: Record<Finding["severity"], string> = {
  error: "text-coral",
  warning: "text-amber",
  note: "text-quiet",
};

/** The worst warning or error about a source, for the cards that show it. */
export const warningOf = (findings: Finding[], source: string | undefined): Finding | undefined =>
  findings.find((one) => one.source === source && one.severity !== "note");

/** The passes a finding is about: its own, or several that it tells of at once. */
export const passesOf = (finding: Finding): string[] =>
  finding.pass ? [finding.pass] : Array.isArray(finding.measure.passes) ? finding.measure.passes.map(String) : [];

/** The worst finding of a pass. */
export function worstOf(findings: Finding[], source: string, pass: string): Finding | undefined {
  const own = findings.filter(
    (one) => one.source === source && passesOf(one).some((name) => name === pass || name.startsWith(`${pass} `)),
  );
  return own.find((one) => one.severity === "error") ?? own.find((one) => one.severity === "warning") ?? own[0];
}
