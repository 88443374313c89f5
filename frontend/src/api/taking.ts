import { type QueryKey, useQueryClient } from "@tanstack/react-query";
import { report } from "../controls/notices";

/** For addresses whose answer is the whole list as it is afterwards: it takes the place of the one that is shown. True where it came; what went
 * wrong is said. */
export function useTaking<List>(key: QueryKey, then?: (list: List) => void): (call: Promise<List>) => Promise<boolean> {
  const queries = useQueryClient();
  return async (call) => {
    try {
      const list = await call;
      queries.setQueryData(key, list);
      then?.(list);
      return true;
    } catch (error) {
      report(error);
      return false;
    }
  };
}
