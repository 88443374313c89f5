import { Eye, Pipette } from "lucide-react";
import { answer, api } from "../../api/client";
import { type Card, type Treatment, withValue } from "../../api/document";
import { Button } from "../../controls/Button";
import { report } from "../../controls/notices";
import { useSession, useSessionParts } from "../session";
import { documentOf, pathOf, shownName } from "../shotParts";

/** Sets the focus by touching the picture, and shows what is nearer and farther than it. */
export function FocusButtons({ card, treatment }: { card: Card; treatment: Treatment }) {
  const { lookingAt, set } = useSessionParts("lookingAt", "set");
  if (treatment.mode === "uniform") return null;
  const seen = lookingAt.kind === "focus" && lookingAt.card === card.id;
  const look = "h-[22px]! px-2! text-[11.5px]";
  return (
    <div className="flex gap-1.5 pb-1">
      <Button className={look} title="touch what is to be sharp" onClick={() => focusOn(card, treatment)}>
        <Pipette size={11} /> Focus on…
      </Button>
      <Button
        className={`${look} ${seen ? "text-verdigris" : ""}`}
        title="nearer is shown warm, farther cool, and what is sharp as it is"
        aria-pressed={seen}
        onClick={() => set({ lookingAt: seen ? { kind: "picture" } : { kind: "focus", card: card.id } })}
      >
        <Eye size={11} /> See the focus
      </Button>
    </div>
  );
}

/** Asks for a place that is to be sharp. */
function focusOn(card: Card, treatment: Treatment): void {
  const take = (at: [number, number]) => {
    useSession.setState({ spot: at });
    return focusAt(card, treatment, at);
  };
  useSession.setState({ picking: { matte: null, what: "spot", words: "touch what is to be sharp", take } });
}

/** Focuses a defocus, or the shot's camera that it uses, on how far away it is at a place. */
export async function focusAt(card: Card, treatment: Treatment, [x, y]: [number, number]): Promise<void> {
  const { saved, shot, frame, edit } = useSession.getState();
  if (!saved || !shot) return;
  try {
    const query = { revision: saved.revision, frame, x, y, radius: 0 };
    const found = await answer(
      api.GET("/api/shots/{shot_id}/under", { params: { path: { shot_id: saved.id }, query } }),
    );
    if (found.depth == null)
      throw new Error(
        "nothing tells how far away that is: touch something with a depth pass, or set a depth on its card",
      );
    const shared = treatment.camera === "shot";
    const path = shared ? ["camera"] : [...pathOf(shot, card.id), "treatments", treatment.id];
    const before = shared ? documentOf(shot).camera?.focus : treatment.focus;
    const value = withValue(before, frame, Number(found.depth.toPrecision(5)));
    await edit([{ op: "set", path: [...path, "focus"], value }], `focus of ${shownName(card)} as touched`);
  } catch (error) {
    report(error);
  }
}
