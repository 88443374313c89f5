import { useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../api/client";
import { asCommand } from "../api/command";
import { useTaking } from "../api/taking";
import { report, told } from "../controls/notices";

export type ShowList = Schemas["ShowList"];
export type Show = Schemas["ShowSummary"];
export type Shot = Schemas["ShotSummary"];
const KEY = ["shows"];

export const useShows = () =>
  useQuery({ queryKey: KEY, queryFn: () => answer(api.GET("/api/shows")), refetchInterval: 15000 });

/** What can be done with shows and shots. */
export function useOrdering() {
  const queries = useQueryClient();
  const taken = useTaking<ShowList>(KEY);
  const show = (show_id: number) => ({ params: { path: { show_id } } });
  const shot = (shot_id: number) => ({ params: { path: { shot_id } } });
  const restoreShow = (id: number) => taken(answer(api.POST("/api/shows/{show_id}/restore", show(id))));
  const restoreShot = (id: number) => taken(answer(api.POST("/api/shots/{shot_id}/restore", shot(id))));
  return {
    addShow: (name: string) => taken(answer(api.POST("/api/shows", { body: { name } }))),
    renameShow: (id: number, name: string) =>
      taken(answer(api.POST("/api/shows/{show_id}/name", { ...show(id), body: { name } }))),
    deleteShow: async ({ id, name }: Show) => {
      if (await taken(answer(api.POST("/api/shows/{show_id}/delete", show(id)))))
        told(`Deleted ${name} with its shots`, () => restoreShow(id));
    },
    deleteShot: async ({ id, name }: Shot) => {
      if (await taken(answer(api.POST("/api/shots/{shot_id}/delete", shot(id)))))
        told(`Deleted ${name}`, () => restoreShot(id));
    },
    moveShot: (id: number, show_id: number) =>
      taken(answer(api.POST("/api/shots/{shot_id}/move", { ...shot(id), body: { show_id } }))),
    /** A shot's name is a part of its document: giving it one is a step that undo takes back. */
    renameShot: async ({ id, revision }: Shot, name: string) => {
      try {
        await answer(
          api.POST("/api/shots/{shot_id}/edits", {
            ...shot(id),
            body: {
              base: revision,
              edits: [{ op: "set", path: ["name"], value: name }],
              command: asCommand(`call the shot ${name}`),
              gesture: crypto.randomUUID(),
              tab: "",
            },
          }),
        );
      } catch (error) {
        report(error);
      }
      await queries.invalidateQueries({ queryKey: KEY });
    },
    restoreShow,
    restoreShot,
    demo: () => taken(answer(api.POST("/api/demo"))),
    refresh: () => queries.invalidateQueries({ queryKey: KEY }),
  };
}
