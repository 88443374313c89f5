import { answer, api } from "../api/client";
import { Button } from "../controls/Button";
import { report } from "../controls/notices";
import { type Shot, useOrdering } from "./useShows";

/** A shot whose document cannot be read: what is wrong, and the way back to what it was before. */
export function BrokenTile({ shot }: { shot: Shot }) {
  const { refresh } = useOrdering();
  const goBack = async () => {
    try {
      await answer(
        api.POST("/api/shots/{shot_id}/undo", {
          params: { path: { shot_id: shot.id } },
          body: { tab: "", force: true },
        }),
      );
      refresh();
    } catch (error) {
      report(error);
    }
  };
  return (
    <article className="flex flex-col gap-2 rounded-sm border border-coral bg-panel p-3" aria-label={shot.name}>
      <b className="text-[13.5px]">{shot.name}</b>
      <p role="alert" className="text-coral">
        {shot.problem?.replace(/^t/, "T")}
      </p>
      <p className="text-quiet">Nothing of it is lost: what it was before revision {shot.revision} is still there.</p>
      <Button className="mt-auto self-start" onClick={goBack}>
        Go back before revision {shot.revision}
      </Button>
    </article>
  );
}
