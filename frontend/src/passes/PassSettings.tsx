import type { ReactNode } from "react";
import { type PassSetting, PICTURE_KINDS, sourcesOf } from "../api/document";
import { useModels } from "../api/models";
import { type Edit, useSessionParts } from "../bench/session";
import { Button } from "../controls/Button";
import type { PassEntry } from "./groups";
import { passEdits } from "./remedies";

const MEANINGS = { light: "lit", shadow: "shadow", taken: "light taken away" } as const;
const FACTORS = { file: "as the format says", multiply: "not yet", as_is: "already" } as const;
type Props = { looked: PassEntry; all: PassEntry[] };

/** How a pass is read: its kind, where its alpha comes from, what its values mean. */
export function PassSettings({ looked, all }: Props) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const kinds = useModels()?.pass_kinds ?? [looked.kind];
  if (!shot) return null;
  const source = sourcesOf(shot.document)[looked.source];
  const now: PassSetting = source?.passes?.[looked.name] ?? {};
  const set = (settings: Record<string, unknown>, told: string) =>
    edit(passEdits(shot, looked.source, looked.name, settings), `${looked.name}: ${told}`);
  const others = all.filter((one) => one.source === looked.source && one.name !== looked.name && !one.isIds);
  const attached = Object.entries(source?.attached ?? {}).find(
    ([name]) => looked.name === name || looked.name.startsWith(`${name}.`),
  );
  const detach = () => {
    const rest = Object.fromEntries(Object.entries(source?.attached ?? {}).filter(([name]) => name !== attached?.[0]));
    const edits: Edit[] = [{ op: "set", path: ["sources", looked.source, "attached"], value: rest }];
    edit(edits, `take ${attached?.[0]} off ${looked.source}`);
  };
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
      <Switch
        label="mend impossible pixels"
        on={now.repair ?? false}
        onChange={(repair) => set({ repair }, repair ? "mended" : "not mended")}
      />
      {looked.kind.endsWith("_index") && (
        <Switch
          label="whole numbers by majority"
          on={now.round ?? false}
          onChange={(round) => set({ round }, round ? "rounded" : "not rounded")}
        />
      )}
      {attached && (
        <div className="mt-2 border-t border-line pt-3">
          <p className="mb-2 break-words text-quiet">
            Attached as <b className="text-text">{attached[0]}</b> from {attached[1].path.split("/").at(-1)}
          </p>
          <Button look="danger" onClick={detach}>
            Take it off
          </Button>
        </div>
      )}
    </aside>
  );
}

type ChoiceProps = { label: string; value: string; options: [string, string][]; onChange: (value: string) => void };

export function Choice({ label, value, options, onChange }: ChoiceProps) {
  return (
    <Row label={label}>
      <select
        value={value}
        onChange={(event) => onChange(event.target.value)}
        className="h-7 w-full min-w-0 rounded-sm bg-control px-2 text-text"
      >
        {options.map(([key, text]) => (
          <option key={key} value={key}>
            {text}
          </option>
        ))}
      </select>
    </Row>
  );
}

function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the control is what it is given
    <label className="flex flex-col gap-1 text-quiet">
      {label}
      {children}
    </label>
  );
}

function Switch({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <label className="flex items-center gap-2 text-quiet">
      <input
        type="checkbox"
        className="accent-verdigris"
        checked={on}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  );
}
