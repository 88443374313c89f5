import type { ReactNode } from "react";
import { bakesOf } from "../../api/document";
import { useModels } from "../../api/models";
import { type Choice, Menu } from "../../controls/Menu";
import { lightFamilies, rebuildable, rebuiltFrom } from "../card/picture/lightFamilies";
import { freshName, freshTreatment } from "../freshName";
import { useSessionParts } from "../session";
import { buildPath, cardsOf, documentOf, treatmentIds } from "../shotParts";
import { useContents } from "../useContents";

type Props = {
  onAddSource: () => void;
  /** The card it goes behind; without one it goes to the front. */
  before?: string;
  trigger: ReactNode;
};

/** With what a designed picture begins that has no sense without it. */
const STARTS: Record<string, object> = { text: { text: "Text" } };

/** A new card: one that treats the picture, one that is designed, or what a source shows. */
export function AddCard({ onAddSource, before, trigger }: Props) {
  const { shot, edit, set, inside } = useSessionParts("shot", "edit", "set", "inside");
  const models = useModels();
  const contents = useContents();
  if (!shot) return null;
  const add = async (stem: string, rest: Record<string, unknown>) => {
    const id = freshName(
      cardsOf(shot).map((card) => card.id),
      stem,
    );
    const path = buildPath(shot, inside);
    if (!(await edit([{ op: "insert", path, item: { id, ...rest }, before: before ?? null }], `add card ${id}`)))
      return;
    set({ openCard: id, openTreatment: null, openMatte: null });
  };
  /** What a shadow is usually darkened and softened by; they change nothing yet. */
  const shadowTreatments = () => {
    const taken = treatmentIds(shot);
    const levels = freshTreatment(taken);
    return [
      { id: levels, kind: "levels" },
      { id: freshTreatment([...taken, levels]), kind: "soften", size: 0 },
    ];
  };
  const designed = (models?.pictures ?? []).filter((picture) =>
    ["solid", "gradient", "noise", "text"].includes(picture.kind),
  );
  const bakes = bakesOf(documentOf(shot));
  const sources = (contents?.sources ?? []).filter((source) => !bakes.has(source.name) && !source.problem);
  const choices = sources.map(({ name: source, passes }) => {
    const has = (kind: string) => passes.some((pass) => pass.kind === kind);
    const choice = (key: string, label: string, stem: string, rest: Record<string, unknown>): Choice => ({
      key: `${source} ${key}`,
      label,
      onPick: () => add(stem, rest),
    });
    const of = (name: string) => ({ picture: { kind: "pass", source, pass: name } });
    const rebuilt = rebuildable(lightFamilies(passes)).map(({ noun, names }) =>
      choice(`rebuild ${noun}`, `rebuilt from its ${names.length} ${noun}`, source, {
        picture: rebuiltFrom(source, names),
      }),
    );
    return {
      title: source,
      choices: [
        ...(has("beauty") ? [choice("beauty", "its beauty", source, of("beauty"))] : []),
        ...rebuilt,
        ...(has("shadow")
          ? [
              choice("shadow", "its shadow", `${source} shadow`, {
                picture: { kind: "shadow", source },
                treatments: shadowTreatments(),
              }),
            ]
          : []),
        choice("plate", "as a plate that fills the frame", source, { picture: { kind: "plate", source } }),
        choice("texture", "as a texture, tiled and multiplied", `${source} texture`, {
          picture: { kind: "texture", source },
          join: "multiply",
        }),
        ...passes
          .filter((pass) => ["line", "occlusion"].includes(pass.kind))
          .map((pass) =>
            choice(pass.name, `${pass.name}, multiplied`, pass.name, { ...of(pass.name), join: "multiply" }),
          ),
      ],
    };
  });
  return (
    <Menu
      trigger={trigger}
      sections={[
        {
          choices: [{ key: "treat", label: "treat the picture so far", onPick: () => add("treat", { treat: true }) }],
        },
        {
          title: "designed",
          choices: designed.map((picture) => ({
            key: picture.kind,
            label: picture.title.toLowerCase(),
            onPick: () => add(picture.kind, { picture: { kind: picture.kind, ...STARTS[picture.kind] } }),
          })),
        },
        ...choices,
        { choices: [{ key: "source", label: "from a new source…", onPick: onAddSource }] },
      ]}
    />
  );
}
