import { useQueryClient } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { report } from "../controls/notices";
import { useSession } from "./session";
import { useContents } from "./useContents";

/** The display names of the show, beside those of the file. */
export function useDisplayNames() {
  const shotId = useSession((s) => s.shotId);
  const client = useQueryClient();
  const contents = useContents();
  const layers = (contents?.sources ?? []).flatMap((source) => source.ids);
  const names: Record<string, string> = Object.assign({}, ...layers.map((layer) => layer.display_names));
  /** The display name of a name, or of # and an ID; the name itself where it has none. */
  const shown = (name: string): string => names[name] ?? name;
  const rename = async (id: string, name: string) => {
    try {
      await answer(
        api.POST("/api/shots/{shot_id}/display-names", { params: { path: { shot_id: shotId } }, body: { id, name } }),
      );
      await client.invalidateQueries({ queryKey: ["contents"] });
    } catch (error) {
      report(error);
    }
  };
  return { shown, rename };
}
