import { matteOf, type Treatment } from "../../api/document";
import { nameOfMatte, useSessionParts } from "../session";
import { LimitMenu } from "./ThroughMenu";

/** What an outline goes round: the card's own alpha, or a matte; shown as a chip. */
export function OfMenu({ path, treatment }: { path: string[]; treatment: Treatment }) {
  const { edit } = useSessionParts("edit");
  const name = treatment.name ?? treatment.kind;
  const of = treatment.of ?? "alpha";
  const matte = of === "alpha" ? null : matteOf(of);
  const use = (value: string | null) =>
    edit(
      [{ op: "set", path: [...path, "of"], value }],
      `${name} of ${value ? nameOfMatte(value) : "the card's alpha"}`,
    );
  return (
    <LimitMenu
      label={matte ? `Of ${nameOfMatte(matte)}` : "of the card's alpha"}
      shown={matte ? nameOfMatte(matte) : "own alpha"}
      matte={matte}
      chosen={matte !== null}
      title="of"
      first={[{ choices: [{ key: "alpha", label: "the card's own alpha", onPick: () => use(null) }] }]}
      onMatte={use}
    />
  );
}
