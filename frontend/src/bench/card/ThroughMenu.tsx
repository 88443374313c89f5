import { matteOf, type Treatment } from "../../api/document";
import { Menu } from "../../controls/Menu";
import { nameOfMatte, useSessionParts } from "../session";
import { documentOf } from "../shotParts";

/** The matte a treatment works through, or takes its light from; shown as a chip. */
export function ThroughMenu({ path, treatment, light }: { path: string[]; treatment: Treatment; light: boolean }) {
  const { shot, edit, set } = useSessionParts("shot", "edit", "set");
  if (!shot) return null;
  const name = treatment.name ?? treatment.kind;
  const feed = typeof treatment.feed === "object" ? matteOf(treatment.feed.matte) : null;
  const matte = light ? feed : treatment.through ? matteOf(treatment.through) : null;
  const mattes = Object.entries(documentOf(shot).mattes ?? {});
  const shown = matte && (documentOf(shot).mattes?.[matte]?.name ?? matte);
  const use = (id: string | null) =>
    edit(
      [{ op: "set", path: [...path, light ? "feed" : "through"], value: light && id ? { matte: id } : id }],
      id ? `${name} ${light ? "from" : "through"} ${nameOfMatte(id)}` : `${name} everywhere`,
    );
  const whole = light ? "the whole card's light" : "everywhere";
  return (
    <Menu
      trigger={
        <button
          type="button"
          aria-label={shown ? `${light ? "From" : "Through"} ${shown}` : light ? `all light: ${whole}` : whole}
          className={`max-w-[118px] truncate rounded-sm px-[7px] py-[2px] text-[11px] ${matte ? "bg-lilac-ground text-lilac" : "text-faint hover:text-text"}`}
        >
          {shown ?? (light ? "all light" : "everywhere")}
        </button>
      }
      sections={[
        { choices: [{ key: "none", label: whole, onPick: () => use(null) }] },
        {
          title: light ? "light from" : "through",
          choices: mattes.map(([id, m]) => ({ key: id, label: m.name ?? id, onPick: () => use(id) })),
        },
        ...(matte
          ? [
              {
                choices: [
                  {
                    key: "look",
                    label: "Look at it",
                    onPick: () => set({ lookingAt: { kind: "tint", name: matte }, openMatte: matte }),
                  },
                ],
              },
            ]
          : []),
      ]}
    />
  );
}
