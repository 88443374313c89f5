import { answer, api } from "../../api/client";
import type { Card, Treatment } from "../../api/document";
import { withValue } from "../../api/document";
import { report } from "../../controls/notices";
import { freshTreatment } from "../freshName";
import { type Edit, useSession } from "../session";
import { cardsOf, pathOf, shownName, treatmentIds } from "../shotParts";

const rounded = (value: number) => Number(value.toPrecision(5));

/** Asks for a place that is to change and for one that it is to be like; what takes one to the other is the slope of a grade. */
export function matchTo(card: Card, treatment: Treatment | undefined, how: "neutral" | "whole"): void {
  const { set } = useSession.getState();
  set({
    picking: {
      matte: null,
      what: "spot",
      words: "touch what is to change",
      take: (here) =>
        set({
          picking: {
            matte: null,
            what: "spot",
            words: "now touch what it is to be like",
            take: (there) => matched(card, treatment, how, here, there),
          },
        }),
    },
  });
}

async function matched(
  card: Card,
  treatment: Treatment | undefined,
  how: "neutral" | "whole",
  here: [number, number],
  there: [number, number],
): Promise<void> {
  const { saved, shot, frame, edit, set } = useSession.getState();
  if (!saved) return;
  try {
    const body = { revision: saved.revision, frame, card: card.id, here, there, how };
    const made = await answer(
      api.POST("/api/shots/{shot_id}/match", { params: { path: { shot_id: saved.id } }, body }),
    );
    const path = [...pathOf(shot, card.id), "treatments"];
    if (treatment) {
      const before = (treatment.slope as number[] | undefined) ?? [1, 1, 1];
      const slope = Array.isArray(before)
        ? before.map((value, c) => rounded(value * (made.slope[c] ?? 1)))
        : made.slope.map(rounded);
      const edits: Edit[] = [
        {
          op: "set",
          path: [...path, treatment.id, "slope"],
          value: withValue(treatment.slope ?? [1, 1, 1], frame, slope),
        },
      ];
      await edit(edits, `match ${shownName(card)}`);
      return;
    }
    const id = freshTreatment(treatmentIds(shot));
    const item = { id, kind: "grade", name: "match", slope: made.slope.map(rounded) };
    const before = card.treatments?.[0]?.id ?? null;
    if (await edit([{ op: "insert", path, item, before }], `match ${shownName(card)}`)) set({ openTreatment: id });
  } catch (error) {
    report(error);
  }
}

/** Asks for an even patch, and gives a grain the size and strength that it has there. */
export function grainLike(card: Card, treatment: Treatment): void {
  const { set } = useSession.getState();
  set({
    picking: {
      matte: null,
      what: "spot",
      words: "touch an even patch whose grain it is to have",
      take: async (at) => {
        const { saved, shot, frame, edit } = useSession.getState();
        if (!saved) return;
        try {
          // of what lies behind: the grain itself is not to be measured again
          const all = cardsOf(shot);
          const behind = all[all.findIndex((one) => one.id === card.id) - 1];
          const body = {
            revision: saved.revision,
            frame,
            at,
            card: (card.treat ? behind?.id : undefined) ?? all[0]?.id ?? null,
          };
          const made = await answer(
            api.POST("/api/shots/{shot_id}/grain", { params: { path: { shot_id: saved.id } }, body }),
          );
          const path = [...pathOf(shot, card.id), "treatments", treatment.id];
          await edit(
            [
              { op: "set", path: [...path, "size"], value: rounded(made.size) },
              { op: "set", path: [...path, "strength"], value: rounded(made.strength) },
            ],
            `grain of ${shownName(card)} as touched`,
          );
        } catch (error) {
          report(error);
        }
      },
    },
  });
}
