import { type MatteRef, matteOf, type Treatment } from "../../api/document";
import { Menu, type Section } from "../../controls/Menu";
import { nameOfMatte, useSessionParts } from "../session";
import { listedMattes } from "../shotParts";

type LimitProps = {
  /** What is chosen, as read aloud and as shown; `matte` where it is one. */
  label: string;
  shown: string;
  matte: string | null;
  chosen: boolean;
  title: string;
  /** What is offered before the mattes. */
  first: Section[];
  /** What is offered after them. */
  last?: Section;
  onMatte: (id: string) => void;
};

/** A chip that says what a treatment is limited to, with all mattes to choose from. */
export function LimitMenu({ label, shown, matte, chosen, title, first, last, onMatte }: LimitProps) {
  const { shot, set } = useSessionParts("shot", "set");
  if (!shot) return null;
  const mattes = listedMattes(shot);
  const look = (id: string) => set({ lookingAt: { kind: "tint", name: id }, openMatte: id });
  return (
    <Menu
      trigger={
        <button
          type="button"
          aria-label={label}
          className={`max-w-[118px] truncate rounded-sm px-[7px] py-[2px] text-[11px] ${matte ? "bg-lilac-ground text-lilac" : chosen ? "bg-control text-text" : "text-faint hover:text-text"}`}
        >
          {shown}
        </button>
      }
      sections={[
        ...first,
        { title, choices: mattes.map(([id, m]) => ({ key: id, label: m.name ?? id, onPick: () => onMatte(id) })) },
        ...(last ? [last] : []),
        ...(matte ? [{ choices: [{ key: "look", label: "Look at it", onPick: () => look(matte) }] }] : []),
      ]}
    />
  );
}

/** The matte a treatment works through; shown as a chip. */
export function ThroughMenu({ path, treatment }: { path: string[]; treatment: Treatment }) {
  const { edit } = useSessionParts("edit");
  const name = treatment.name ?? treatment.kind;
  const matte = treatment.through ? matteOf(treatment.through as MatteRef) : null;
  const use = (id: string | null) =>
    edit(
      [{ op: "set", path: [...path, "through"], value: id }],
      id ? `${name} through ${nameOfMatte(id)}` : `${name} everywhere`,
    );
  return (
    <LimitMenu
      label={matte ? `Through ${nameOfMatte(matte)}` : "everywhere"}
      shown={matte ? nameOfMatte(matte) : "everywhere"}
      matte={matte}
      chosen={matte !== null}
      title="through"
      first={[{ choices: [{ key: "none", label: "everywhere", onPick: () => use(null) }] }]}
      onMatte={use}
    />
  );
}
