import { ChevronDown } from "lucide-react";
import { boundsOf, type Field, type Model } from "../../api/models";
import { Menu } from "../../controls/Menu";
import { useSession, useSessionParts } from "../session";
import { documentOf } from "../shotParts";
import { AnimatedField } from "./AnimatedField";
import { ColourOrWord } from "./ColourOrWord";
import { NumbersField } from "./NumbersField";

type Props = { model: Model; values: Record<string, unknown>; path: string[]; skip?: string[]; last?: string[] };

/** A number, keyed or not. */
const isNumber = (field: Field) => (field.oneOf?.[0] ?? field).type === "number";

const HANDLED = [
  "id",
  "kind",
  "name",
  "enabled",
  "through",
  "lay",
  "feed",
  "source",
  "lights",
  "rest",
  "stops",
  "start",
  "end",
  "pass",
  "build",
  "time",
  "text",
  "box",
  "leader",
];

/** What is shown where none of the words is chosen. */
const NONE = "all";

/** The controls of a parameter model, drawn from its description. */
export function Parameters({ model, values, path, skip = [], last = [] }: Props) {
  const names = Object.keys(model.properties).filter((name) => {
    const field = model.properties[name] as Field;
    return !skip.includes(name) && (!HANDLED.includes(name) || (field.animated && isNumber(field)));
  });
  const ordered = [...names.filter((name) => !last.includes(name)), ...last.filter((name) => names.includes(name))];
  return (
    <>
      {ordered.map((name) => (
        <Parameter
          key={name}
          name={name}
          field={model.properties[name] as Field}
          value={values[name]}
          path={[...path, name]}
        />
      ))}
    </>
  );
}

/** A point of the frame; its middle where none is set, or what there is without one. */
function PlaceField({ path, name, value, field }: { path: string[]; name: string; value: unknown; field: Field }) {
  const { shot, spot, edit } = useSessionParts("shot", "spot", "edit");
  if (!shot) return null;
  const { width, height } = documentOf(shot).format;
  if (field.without && !value) {
    const title = field.title ?? name;
    const at = spot ?? [width / 2, height / 2];
    return (
      <div className="grid h-[27px] grid-cols-[78px_1fr] items-center gap-2">
        <span className="truncate text-quiet">{title}</span>
        <button
          type="button"
          aria-label={`${title}: ${field.without}`}
          title="set a place, which is moved in the picture"
          onClick={() => edit([{ op: "set", path, value: at }], `${name} set`)}
          className="h-[22px] rounded-sm bg-control px-2 text-left hover:bg-raised"
        >
          {field.without}
        </button>
      </div>
    );
  }
  return (
    <NumbersField
      path={path}
      name={name}
      value={value}
      field={{ ...field, unit: "px", soft: [0, width], step: 1 }}
      letters={["X", "Y"]}
      bound={100000}
      fallback={[width / 2, height / 2]}
    />
  );
}

export function Parameter({
  name,
  field,
  value,
  path,
}: {
  name: string;
  field: Field;
  value: unknown;
  path: string[];
}) {
  const edit = useSession((s) => s.edit);
  const label = field.title ?? name;
  if (field.widget === "curve" || field.widget === "stops") return null;
  if (field.widget === "halo_colour") return <ColourOrWord path={path} value={value} field={field} />;
  if (field.widget === "place") return <PlaceField path={path} name={name} value={value} field={field} />;
  if (field.widget === "dash")
    return <NumbersField path={path} name={name} value={value} field={field} letters={["on", "off"]} bound={10000} />;
  if (field.widget === "colour" || field.widget === "three")
    return (
      <NumbersField
        path={path}
        name={name}
        value={value}
        field={field}
        letters={["R", "G", "B"]}
        well={field.widget === "colour"}
      />
    );
  if (field.animated || field.type === "number" || field.type === "integer") {
    return <AnimatedField path={path} name={name} value={value} field={field} bounds={boundsOf(field)} />;
  }
  const nullable = field.enum ? undefined : field.anyOf?.find((one) => one.enum)?.enum;
  const words = field.enum ?? (nullable && [NONE, ...nullable]);
  if (words) {
    const current = String(value ?? field.default ?? NONE);
    const shown = current.replaceAll("_", " ");
    return (
      <div className="grid h-[27px] grid-cols-[78px_1fr] items-center gap-2">
        <span className="truncate text-quiet">{label}</span>
        <Menu
          trigger={
            <button
              type="button"
              aria-label={`${label}: ${shown}`}
              className="flex h-[22px] items-center rounded-sm bg-control px-2 text-left hover:bg-raised"
            >
              {shown}
              <ChevronDown size={12} className="ml-auto shrink-0 text-quiet" />
            </button>
          }
          sections={[
            {
              choices: words.map((choice) => ({
                key: choice,
                label: choice.replaceAll("_", " "),
                onPick: () =>
                  edit(
                    [{ op: "set", path, value: choice === (field.default ?? NONE) ? null : choice }],
                    `${name} ${choice}`,
                  ),
              })),
            },
          ]}
        />
      </div>
    );
  }
  if (field.type === "boolean") {
    const on = (value ?? field.default) === true;
    return (
      <label className="grid h-[27px] grid-cols-[78px_1fr] items-center gap-2">
        <span className="text-quiet">{label}</span>
        <input
          type="checkbox"
          checked={on}
          className="size-3.5 accent-verdigris"
          onChange={() => edit([{ op: "set", path, value: !on }], `${name} ${on ? "off" : "on"}`)}
        />
      </label>
    );
  }
  return null;
}
