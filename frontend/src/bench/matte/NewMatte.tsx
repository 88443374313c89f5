import { Plus } from "lucide-react";
import { answer, api, type Schemas } from "../../api/client";
import { useModels } from "../../api/models";
import { IconButton } from "../../controls/Button";
import { Menu } from "../../controls/Menu";
import { report } from "../../controls/notices";
import { freshName } from "../freshName";
import { useSessionParts } from "../session";
import { cardsOf, documentOf, shownName } from "../shotParts";
import { useContents } from "../useContents";
import { addMatte } from "./adding";
import { lastPart } from "./names";

type Start = { kind: string; stem: string; item: Record<string, unknown> };

/** What mattes a source can give, each with settings it can start from. */
function startsOf(source: Schemas["SourceData"]): Start[] {
  const of = (...kinds: string[]) => source.passes.find((pass) => kinds.includes(pass.kind));
  const starts: Start[] = [];
  const beauty = of("beauty");
  const depth = of("depth");
  const index = of("object_index", "material_index");
  const packed = of("rgb_matte", "single_matte");
  const layer = source.ids.find((one) => one.kind === "object") ?? source.ids[0];
  const name = layer?.first;
  if (layer && name)
    starts.push({ kind: "id", stem: lastPart(name), item: { source: source.name, layer: layer.name, names: [name] } });
  if (packed)
    starts.push({
      kind: "channel",
      stem: packed.name,
      item: { source: source.name, pass: packed.name, channel: "red" },
    });
  else if (beauty)
    starts.push({ kind: "channel", stem: "bright", item: { source: source.name, pass: beauty.name, channel: "luma" } });
  for (const pass of source.passes.filter((one) => one.kind === "shadow"))
    starts.push({
      kind: "channel",
      stem: pass.name,
      // 1 where the shadow falls
      item: { source: source.name, pass: pass.name, channel: "luma", black: 1, white: 0 },
    });
  if (depth) starts.push({ kind: "depth", stem: "near", item: { source: source.name, pass: depth.name } });
  if (index)
    starts.push({ kind: "index", stem: "number 1", item: { source: source.name, pass: index.name, numbers: [1] } });
  if (beauty) starts.push({ kind: "key", stem: "colour", item: { source: source.name, pass: beauty.name } });
  if (beauty?.has_alpha) starts.push({ kind: "alpha", stem: source.name, item: { source: source.name } });
  return starts;
}

/** Makes a matte of any kind and opens it. */
export function NewMatte() {
  const { shot, frame, set } = useSessionParts("shot", "frame", "set");
  const contents = useContents();
  const models = useModels();
  if (!shot) return null;
  const { width, height } = documentOf(shot).format;
  const title = (kind: string) => models?.mattes.find((one) => one.kind === kind)?.title ?? kind;
  const make = async ({ kind, stem, item }: Start) => {
    const id = freshName(Object.keys(documentOf(shot).mattes ?? {}), stem);
    const whole = kind === "depth" ? { ...item, ...(await ends(shot.id, shot.revision, frame, item)) } : item;
    await addMatte({ id, kind, ...whole }, `make matte ${id}`);
  };
  const elements = cardsOf(shot).filter((card) => !card.treat && card.picture?.kind !== "shadow");
  const middle = [width / 2, height / 2, width / 6, height / 6];
  const shape: Start = { kind: "shape", stem: "fence", item: { form: "ellipse", points: middle } };
  return (
    <Menu
      trigger={
        <IconButton label="Make a matte" look="ghost" className="ml-auto">
          <Plus size={13} />
        </IconButton>
      }
      sections={[
        ...(contents?.sources ?? []).map((source) => ({
          title: source.name,
          choices: startsOf(source).map((start) => ({
            key: start.kind + start.stem + source.name,
            label: title(start.kind),
            note: String(start.item.pass ?? start.item.layer ?? ""),
            onPick: () => make(start),
          })),
        })),
        ...(elements.length
          ? [
              {
                title: "an element, as its card makes it",
                choices: elements.map((card) => ({
                  key: `card ${card.id}`,
                  label: title("alpha"),
                  note: shownName(card),
                  onPick: () => make({ kind: "alpha", stem: `${shownName(card)} alpha`, item: { card: card.id } }),
                })),
              },
            ]
          : []),
        {
          title: "drawn",
          choices: [
            {
              key: "outline",
              label: "Outline",
              note: "point by point",
              onPick: () => set({ picking: { matte: null, what: "shape" }, lookingAt: { kind: "picture" } }),
            },
            { key: "shape", label: title("shape"), note: "an ellipse to move", onPick: () => make(shape) },
          ],
        },
      ]}
    />
  );
}

/** The nearer half of what a depth pass holds. */
async function ends(shotId: number, revision: number, frame: number, item: Record<string, unknown>) {
  try {
    const span = await answer(
      api.GET("/api/shots/{shot_id}/span", {
        params: {
          path: { shot_id: shotId },
          query: { revision, frame, source: String(item.source), name: String(item.pass) },
        },
      }),
    );
    const rounded = (value: number) => Number(value.toPrecision(3));
    return { near: rounded(span.least), far: rounded((span.low + span.high) / 2) };
  } catch (error) {
    report(error);
    return {};
  }
}
