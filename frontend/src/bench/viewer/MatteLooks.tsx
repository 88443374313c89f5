import { Segments } from "../../controls/Segments";
import { useSessionParts } from "../session";
import type { MatteLook } from "../shotParts";

const LOOKS: [MatteLook, string, string][] = [
  ["matte", "alone", "the matte by itself"],
  ["tint", "tint", "the matte over the picture"],
  ["cut", "cut", "the picture where the matte is"],
  ["edges", "edges", "only the rim, pixel by pixel"],
  ["leaks", "leaks", "what it covers outside of one part, and holes in that; click a part"],
];

const MATTE_LOOKS = LOOKS.map(([kind]) => kind);

/** How the matte that is looked at is shown. */
export function MatteLooks() {
  const { lookingAt, set } = useSessionParts("lookingAt", "set");
  if (!("name" in lookingAt) || "source" in lookingAt) return null;
  return (
    <Segments
      label="How the matte is shown"
      name="matte look"
      choices={LOOKS.map(([value, text, title]) => ({ value, text, title }))}
      value={MATTE_LOOKS.find((kind) => kind === lookingAt.kind)}
      onPick={(kind) => set({ lookingAt: { kind, name: lookingAt.name } })}
    />
  );
}
