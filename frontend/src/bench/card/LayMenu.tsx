import { ChevronDown } from "lucide-react";
import type { Treatment } from "../../api/document";
import { useModels } from "../../api/models";
import { Menu } from "../../controls/Menu";
import { useSession } from "../session";

/** Whether a treatment replaces what it gets, or is laid on it by a join. */
export function LayMenu({ path, treatment }: { path: string[]; treatment: Treatment }) {
  const models = useModels();
  const edit = useSession((s) => s.edit);
  const name = treatment.name ?? treatment.kind;
  const own = models?.treatments.find((one) => one.kind === treatment.kind)?.schema.properties.lay?.default;
  const usual = (own as { join?: string } | null | undefined)?.join ?? null;
  const join = treatment.lay ? (treatment.lay.join ?? "over") : usual;
  const title = (kind: string) => models?.joins.find((one) => one.kind === kind)?.title ?? kind;
  const lay = (kind: string | null) =>
    edit(
      [{ op: "set", path: [...path, "lay"], value: kind ? { join: kind } : null }],
      kind ? `lay ${name} on by ${title(kind)}` : `${name} replaces`,
    );
  return (
    <div className="grid h-[27px] grid-cols-[78px_1fr] items-center gap-2">
      <span className="text-quiet">Result</span>
      <Menu
        trigger={
          <button
            type="button"
            aria-label={`Result: ${join ? `laid on by ${title(join)}` : "replaces the picture"}`}
            className="flex h-[22px] items-center rounded-sm bg-control px-2 text-left hover:bg-raised"
          >
            {join ? `laid on by ${title(join)}` : "replaces the picture"}
            <ChevronDown size={12} className="ml-auto shrink-0 text-quiet" />
          </button>
        }
        sections={[
          ...(usual ? [] : [{ choices: [{ key: "none", label: "replaces the picture", onPick: () => lay(null) }] }]),
          {
            title: "laid on by",
            choices: (models?.joins ?? [])
              .filter((one) => one.lays)
              .map((one) => ({ key: one.kind, label: one.title, note: one.formula, onPick: () => lay(one.kind) })),
          },
        ]}
      />
    </div>
  );
}
