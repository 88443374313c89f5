import type { ShotState } from "../../api/client";
import type { Card } from "../../api/document";
import type { Models } from "../../api/models";
import { freshTreatment } from "../freshName";
import type { Edit } from "../session";
import { pathOf, treatmentIds } from "../shotParts";

/** The edit that puts a treatment at the end of its stage on a card, under an id that nothing in the shot has. */
export function addedTreatment(
  models: Models,
  shot: ShotState | null,
  card: Card,
  settings: { kind: string } & Record<string, unknown>,
): { id: string; edit: Edit } {
  const stageOf = (kind: string) => models.treatments.find((one) => one.kind === kind)?.stage ?? "";
  const later = models.stages.slice(models.stages.indexOf(stageOf(settings.kind)) + 1);
  const before = (card.treatments ?? []).find((one) => later.includes(stageOf(one.kind)))?.id ?? null;
  const id = freshTreatment(treatmentIds(shot));
  return {
    id,
    edit: { op: "insert", path: [...pathOf(shot, card.id), "treatments"], item: { id, ...settings }, before },
  };
}
