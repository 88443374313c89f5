import { answer, api } from "../api/client";
import { tab, useSession } from "../bench/session";
import { cardsOf, documentOf } from "../bench/shotParts";
import { toldStep } from "../bench/toldStep";
import { listed } from "../controls/listed";
import { report } from "../controls/notices";

/** Makes pictures that were listed in a folder sources of the open shot, each with its cards, and says so with the way back. Whether it was done. */
export async function addSources(paths: string[], folder: string): Promise<boolean> {
  const { saved, shotId, accept, set } = useSession.getState();
  if (!saved) return false;
  const before = new Set([...Object.keys(documentOf(saved).sources ?? {}), ...cardsOf(saved).map((card) => card.id)]);
  try {
    const shot = await answer(
      api.POST("/api/shots/{shot_id}/sources", {
        params: { path: { shot_id: shotId } },
        body: { base: saved.revision, paths, folder, build: true, command: "", gesture: crypto.randomUUID(), tab },
      }),
    );
    accept(shot);
    const cards = cardsOf(shot).filter((card) => !before.has(card.id));
    const names = Object.keys(documentOf(shot).sources ?? {}).filter((name) => !before.has(name));
    const back = cards.filter((card) => card.picture?.kind === "plate");
    if (cards[0]) set({ openCard: cards[0].id, openMatte: null });
    const where = back.length === cards.length && back.length ? "behind everything" : "in the build";
    toldStep(`Added ${listed(names)}, ${where}`);
    return true;
  } catch (error) {
    report(error);
    return false;
  }
}
