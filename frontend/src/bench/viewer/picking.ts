import { answer, api, type ShotState } from "../../api/client";
import type { Animated, Keys, Matte } from "../../api/document";
import { valueAt, withValue } from "../../api/document";
import { report } from "../../controls/notices";
import { nameOfMatte, type Picking, useSession } from "../session";
import { documentOf } from "../shotParts";

type Passed = Matte & { source: string; pass?: string; near?: Animated; far?: Animated; colour?: number[] | Keys };
type Values = (number | null)[];

/** Gives a matte the depth or the colour at a pixel; after the near end the far one is asked for. */
export async function pick(picking: Picking, at: [number, number]): Promise<void> {
  const { shot, set } = useSession.getState();
  if (picking.what === "spot") {
    set({ picking: null });
    picking.take(at);
    return;
  }
  if (!shot || picking.matte === null) return;
  const { matte: id, what } = picking;
  const matte = documentOf(shot).mattes?.[id] as Passed | undefined;
  if (!matte) return;
  try {
    const values = await valuesAt(shot, matte, what === "colour" ? "beauty" : "depth", at);
    if (what === "colour") await pickColour(id, matte, values);
    else await pickDepth(id, matte, what, values[0] ?? null);
    set({ picking: what === "near" ? { matte: id, what: "far" } : null });
  } catch (error) {
    report(error);
  }
}

/** The true values of the matte's pass at a pixel. */
async function valuesAt(shot: ShotState, matte: Passed, usual: string, [x, y]: [number, number]): Promise<Values> {
  const { frame } = useSession.getState();
  const look = { kind: "pass" as const, source: matte.source, name: matte.pass ?? usual };
  const path = { shot_id: shot.id };
  const body = { ...look, revision: shot.revision, frame, x, y, radius: 0 };
  return (await answer(api.POST("/api/shots/{shot_id}/probe", { params: { path }, body }))).value;
}

const rounded = (value: number): number => Number(value.toPrecision(5));

async function pickColour(id: string, matte: Passed, values: Values): Promise<void> {
  const { edit, frame } = useSession.getState();
  const alpha = values[3] ?? 1;
  if (alpha <= 0 || values.slice(0, 3).includes(null))
    throw new Error("nothing is there; touch something the pass shows");
  const colour = values.slice(0, 3).map((part) => rounded((part ?? 0) / alpha));
  const value = withValue(matte.colour ?? [0.18, 0.18, 0.18], frame, colour);
  await edit([{ op: "set", path: ["mattes", id, "colour"], value }], `colour of ${nameOfMatte(id)}`);
}

async function pickDepth(id: string, matte: Passed, what: "near" | "far", value: number | null) {
  const { edit, frame } = useSession.getState();
  if (value === null || value > 1e8) throw new Error("nothing stands there; touch something that has a depth");
  const now = {
    near: valueAt<number>((matte.near ?? 0) as number | Keys, frame),
    far: valueAt<number>((matte.far ?? 100) as number | Keys, frame),
  };
  const next = { ...now, [what]: rounded(value) };
  // the second one touched may be the nearer of the two
  if (next.far < next.near)
    Object.assign(next, what === "far" ? { near: next.far, far: next.near } : { far: next.near });
  const changed = (["near", "far"] as const).filter((key) => next[key] !== now[key]);
  if (!changed.length) return;
  await edit(
    changed.map((key) => ({
      op: "set",
      path: ["mattes", id, key],
      value: withValue(matte[key] ?? next[key], frame, next[key]),
    })),
    `${what} of ${nameOfMatte(id)} is ${next[what]}`,
  );
}
