import type { Field } from "../../api/models";
import { Segments } from "../../controls/Segments";
import { useSession } from "../session";
import { NumbersField } from "./NumbersField";

const CHOICES = [
  { value: "one", text: "one", title: "one colour for all" },
  { value: "object", text: "each its own", title: "each lamp's own colour" },
  { value: "lit", text: "lit", title: "the colour of what the lamp lights" },
];

/** The colour of a halo: one for all, each lamp's own, or that of what lies around. */
export function ColourOrWord({ path, value, field }: { path: string[]; value: unknown; field: Field }) {
  const edit = useSession((s) => s.edit);
  const chosen = typeof value === "string" ? value : "one";
  const use = (word: string) =>
    edit([{ op: "set", path, value: word === "one" ? null : word }], `halo's colour ${word === "one" ? "one" : word}`);
  return (
    <>
      <div className="grid h-[27px] grid-cols-[78px_1fr] items-center gap-2">
        <span className="truncate text-quiet">{field.title}</span>
        <Segments
          plain
          label={field.title ?? "Colour"}
          name={path.join(".")}
          choices={CHOICES}
          value={chosen}
          onPick={use}
        />
      </div>
      {chosen === "one" && (
        <NumbersField
          path={path}
          name="colour"
          value={value}
          field={{ ...field, title: "" }}
          letters={["R", "G", "B"]}
          well
        />
      )}
    </>
  );
}
