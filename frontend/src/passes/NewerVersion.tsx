import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../api/client";
import { useSession } from "../bench/session";
import { Button } from "../controls/Button";
import { Comparison } from "../sources/Comparison";

const nameOf = (number: number) => `v${String(number).padStart(3, "0")}`;

/** The newest other version of a source that lies beside it: what it would change, and replacing by it. */
export function NewerVersion({ source }: { source: string }) {
  const shot = useSession((s) => s.shot);
  const [open, setOpen] = useState(false);
  const query = useQuery({
    queryKey: ["versions", shot?.id, shot?.revision, source],
    queryFn: () =>
      answer(
        api.GET("/api/shots/{shot_id}/versions", {
          params: { path: { shot_id: shot?.id ?? 0 }, query: { revision: shot?.revision ?? 0, source } },
        }),
      ),
    enabled: shot !== null,
    refetchInterval: 15000,
  });
  const newest = query.data?.versions.at(-1);
  if (!newest || newest.number <= (query.data?.number ?? 0)) return null;
  const name = nameOf(newest.number);
  return (
    <>
      <Button onClick={() => setOpen(true)}>
        {source}: {name} is there…
      </Button>
      {open && <Comparison source={source} found={{ path: newest.path, name }} onClose={() => setOpen(false)} />}
    </>
  );
}
