import { useQueryClient } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { report, useSession } from "./session";
import { useContents } from "./useContents";

/** What people call the IDs of the show, beside what the file calls them. */
export function useCalled() {
  const shotId = useSession((s) => s.shotId);
  const client = useQueryClient();
  const contents = useContents();
  const layers = (contents?.sources ?? []).flatMap((source) => source.ids);
  const called: Record<string, string> = Object.assign({}, ...layers.map((layer) => layer.called));
  /** The display name of a name, or of # and an ID; the name itself where it has none. */
  const shown = (name: string): string => called[name] ?? name;
  const call = async (id: string, name: string) => {
    try {
      await answer(
        api.POST("/api/shots/{shot_id}/called", { params: { path: { shot_id: shotId } }, body: { id, name } }),
      );
      await client.invalidateQueries({ queryKey: ["contents"] });
    } catch (error) {
      report(error);
    }
  };
  return { shown, call };
}
