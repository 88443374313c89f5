import { X } from "lucide-react";
import { useState } from "react";
import type { Matte } from "../../api/document";
import { useSession } from "../session";
import { useContents } from "../useContents";

const MOST = 40;

/** The names an ID matte pulls; others are found by searching the manifest, and `*` stands for any letters. */
export function NameList({ id, matte }: { id: string; matte: Matte }) {
  const edit = useSession((s) => s.edit);
  const contents = useContents();
  const [search, setSearch] = useState("");
  const own = matte as Matte & { source?: string; layer?: string };
  const names = (matte.names ?? []).map(String);
  const source = contents?.sources.find((one) => one.name === own.source);
  const layer = source?.ids.find((one) => one.name === own.layer);
  const wanted = search.trim().toLowerCase();
  const found = wanted
    ? (layer?.names ?? []).filter(
        (name) => name.toLowerCase().includes(wanted.replaceAll("*", "")) && !names.includes(name),
      )
    : [];
  const set = (next: string[], told: string) => edit([{ op: "set", path: ["mattes", id, "names"], value: next }], told);
  const add = (name: string) => {
    set([...names, name], `add ${name} to ${id}`);
    setSearch("");
  };
  return (
    <div>
      <label className="mb-1.5 flex items-center gap-2 text-quiet">
        <select
          aria-label="Layer of the names"
          className="h-[22px] min-w-0 rounded-sm bg-control px-1 text-text"
          value={own.layer}
          onChange={(event) =>
            edit(
              [{ op: "set", path: ["mattes", id, "layer"], value: event.target.value }],
              `layer ${event.target.value}`,
            )
          }
        >
          {(source?.ids ?? []).map((one) => (
            <option key={one.name} value={one.name}>
              {one.name.replaceAll("_", " ")}
            </option>
          ))}
        </select>
        of {own.source}
      </label>
      <ul className="mb-1.5 flex flex-wrap gap-1">
        {names.map((name) => (
          <li
            key={name}
            className="flex h-[22px] items-center gap-1 rounded-sm bg-lilac-ground pr-0.5 pl-1.5 text-lilac"
          >
            <span className="max-w-[190px] truncate">{name}</span>
            <button
              type="button"
              aria-label={`Take ${name} out`}
              disabled={names.length === 1}
              className="rounded-sm p-0.5 hover:bg-control disabled:opacity-30"
              onClick={() =>
                set(
                  names.filter((other) => other !== name),
                  `take ${name} out of ${id}`,
                )
              }
            >
              <X size={11} />
            </button>
          </li>
        ))}
      </ul>
      <input
        type="search"
        aria-label="Add a name"
        placeholder={`search ${layer?.names?.length ?? 0} names, or a pattern with *`}
        className="h-[26px] w-full rounded-sm bg-control px-2"
        value={search}
        onChange={(event) => setSearch(event.target.value)}
        onKeyDown={(event) => {
          event.stopPropagation();
          const first = search.includes("*") || !found.length ? search.trim() : found[0];
          if (event.key === "Enter" && first) add(first);
          if (event.key === "Escape") setSearch("");
        }}
      />
      {wanted && found.length === 0 && (
        <p className="mt-1 text-[11.5px] text-quiet">No name holds it; Enter adds it as it is written.</p>
      )}
      {found.length > 0 && (
        <ul className="mt-1 max-h-44 overflow-y-auto rounded-sm border border-line">
          {found.slice(0, MOST).map((name) => (
            <li key={name} className="flex items-center hover:bg-control">
              <button type="button" className="min-w-0 flex-1 truncate px-2 py-1 text-left" onClick={() => add(name)}>
                {name}
              </button>
              <button
                type="button"
                className="shrink-0 px-2 text-[11px] text-quiet hover:text-text"
                onClick={() => {
                  set([name], `${id} is ${name} now`);
                  setSearch("");
                }}
              >
                only this
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
