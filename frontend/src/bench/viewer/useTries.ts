import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { askThumbsAgain } from "../../controls/thumbs";

const [AGAIN_MS, LATEST_MS] = [4000, 60_000];

/**
 * How often what is wanted, by its key, is to be asked for again: counts up, ever more slowly, while it is broken, since a file may still be
 * being written, or come. Once it is whole, what showed it elsewhere follows.
 */
export function useTries(broken: boolean, key: string): number {
  const [tries, setTries] = useState(0);
  const queries = useQueryClient();
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is wanted anew is not waited for as long as what was before it
  useEffect(() => {
    if (!broken) return;
    let asking: ReturnType<typeof setTimeout>;
    const wait = (ms: number) => {
      asking = setTimeout(() => {
        if (document.visibilityState === "visible") setTries((times) => times + 1);
        wait(Math.min(2 * ms, LATEST_MS));
      }, ms);
    };
    wait(AGAIN_MS);
    return () => clearTimeout(asking);
  }, [broken, key]);
  useEffect(() => {
    if (!broken) return;
    return () => {
      askThumbsAgain();
      queries.invalidateQueries({ queryKey: ["contents"] });
    };
  }, [broken, queries]);
  return tries;
}
