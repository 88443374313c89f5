import { type PassSetting, PICTURE_KINDS, sourcesOf } from "../api/document";
import { useModels } from "../api/models";
import { useSessionParts } from "../bench/session";
import { useContents } from "../bench/useContents";
import { Choice } from "../controls/Choice";
import { Ticked } from "../controls/Ticked";
import { AttachedPart } from "./AttachedPart";
import type { PassEntry } from "./groups";
import { passEdits } from "./remedies";

const MEANINGS = { light: "lit", shadow: "shadow", taken: "light taken away" } as const;
const SPACES: Record<string, string> = {
  lin_rec709: "linear, BT.709",
  lin_ap1: "ACEScg: linear, AP1",
  lin_ap0: "ACES2065-1: linear, AP0",
  lin_rec2020: "linear, BT.2020",
  lin_p3d65: "linear, P3 D65",
  srgb_tx: "sRGB curve",
  display: "made for a display: the view",
  film_log: "film log",
  pq: "HDR by PQ, BT.2100",
  hlg: "HDR by HLG, BT.2100",
  raw: "values as they are",
};
/** What a file may say of its colours by itself. */
const TOLD: Record<string, string> = {
  lin_rec709: "BT.709",
  lin_ap1: "ACEScg (AP1)",
  lin_ap0: "ACES2065-1 (AP0)",
  lin_rec2020: "BT.2020",
  lin_p3d65: "P3 D65",
  other: "its own primaries",
  film_log: "film log",
  pq: "HDR by PQ",
  hlg: "HDR by HLG",
  power: "its own curve",
  table: "its own curve",
};
const FACTORS = { file: "as the format says", multiply: "not yet", as_is: "already" } as const;
type Props = { looked: PassEntry; all: PassEntry[] };

/** How a pass is read: its kind, where its alpha comes from, what its values mean. */
export function PassSettings({ looked, all }: Props) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const said = useContents()?.sources.find((one) => one.name === looked.source);
  const told = [said?.primaries, said?.curve].flatMap((one) => (one ? [TOLD[one] ?? one] : [])).join(", ");
  const kinds = useModels()?.pass_kinds ?? [looked.kind];
  if (!shot) return null;
  const source = sourcesOf(shot.document)[looked.source];
  const now: PassSetting = source?.passes?.[looked.name] ?? {};
  const set = (settings: Record<string, unknown>, told: string) =>
    edit(passEdits(shot, looked.source, looked.name, settings), `${looked.name}: ${told}`);
  const others = all.filter((one) => one.source === looked.source && one.name !== looked.name && !one.isIds);
  return (
    <aside className="flex w-[230px] shrink-0 flex-col gap-3 border-l border-line p-4" aria-label="How it is read">
      <h3 className="heading">How it is read</h3>
      <Choice
        label="kind"
        value={looked.kind}
        onChange={(kind) => set({ kind }, kind.replaceAll("_", " "))}
        options={kinds.map((kind) => [kind, kind.replaceAll("_", " ")])}
      />
      {PICTURE_KINDS.includes(looked.kind) && (
        <Choice
          label="alpha"
          value={now.alpha ?? ""}
          onChange={(alpha) => set({ alpha: alpha || null }, alpha ? `alpha of ${alpha}` : "its own alpha")}
          options={[
            ["", "its own, else the beauty's"],
            ...others.map((one): [string, string] => [one.name, `of ${one.name}`]),
          ]}
        />
      )}
      {(looked.kind === "shadow" || looked.kind === "depth") && (
        <Choice
          label="white means"
          value={now.polarity ?? "light"}
          onChange={(polarity) => set({ polarity }, `white is ${polarity}`)}
          options={Object.entries(looked.kind === "shadow" ? MEANINGS : { light: "far", shadow: "near" })}
        />
      )}
      {PICTURE_KINDS.includes(looked.kind) && (
        <Choice
          label="colour times alpha"
          value={now.association ?? "file"}
          onChange={(association) => set({ association }, `colour times alpha ${association}`)}
          options={Object.entries(FACTORS)}
        />
      )}
      {PICTURE_KINDS.includes(looked.kind) && (
        <Choice
          label={`colours of ${looked.source}, all of it`}
          value={source?.colour ?? "auto"}
          onChange={(colour) =>
            edit(
              [{ op: "set", path: ["sources", looked.source, "colour"], value: colour }],
              `colours of ${looked.source}: ${SPACES[colour] ?? "as the file says"}`,
            )
          }
          options={[["auto", told ? `as the file says: ${told}` : "automatic"], ...Object.entries(SPACES)]}
        />
      )}
      <Ticked on={now.repair ?? false} onTick={(repair) => set({ repair }, repair ? "mended" : "not mended")}>
        <span className="text-quiet">mend impossible pixels</span>
      </Ticked>
      {looked.kind.endsWith("_index") && (
        <Ticked on={now.round ?? false} onTick={(round) => set({ round }, round ? "rounded" : "not rounded")}>
          <span className="text-quiet">whole numbers by majority</span>
        </Ticked>
      )}
      <AttachedPart looked={looked} />
    </aside>
  );
}
