import { ListTree } from "lucide-react";
import { useState } from "react";
import type { Matte } from "../../api/document";
import { IconButton } from "../../controls/Button";
import { holding } from "../../controls/holding";
import { SearchInput } from "../../controls/SearchInput";
import { nameOfMatte, useSessionParts } from "../session";
import { useContents } from "../useContents";
import { useDisplayNames } from "../useDisplayNames";
import { NameChip } from "./NameChip";
import { NameTree } from "./NameTree";
import { hasParts, treeOf } from "./names";
import { TailOfName } from "./TailOfName";
import { told } from "./useAreas";
import { useIdNames, usePresent } from "./useOfLayer";

const MOST = 60;
const FEW = 5; // are counted at a glance
type IdMatte = Matte & { source?: string; layer?: string };

/** The names an ID matte pulls; others are found by searching or browsing, each shown in the picture before it is taken. */
export function NameList({ id, matte }: { id: string; matte: Matte }) {
  const { edit, preview } = useSessionParts("edit", "preview");
  const contents = useContents();
  const { shown } = useDisplayNames();
  const [search, setSearch] = useState("");
  const [browsing, setBrowsing] = useState(false);
  const [listing, setListing] = useState(MOST);
  const own = matte as IdMatte;
  const names = (matte.names ?? []).map(String);
  const source = contents?.sources.find((one) => one.name === own.source);
  const layer = source?.ids.find((one) => one.name === own.layer);
  const wanted = search.trim();
  const areas = usePresent(own.source, own.layer, wanted !== "" || layer?.named === null);
  const listed = useIdNames(own.source, layer?.named ? layer.name : undefined);
  const known = layer?.named === null ? [...areas.keys()] : listed;
  const holds = holding(wanted);
  const taken = new Set(names);
  const found = wanted
    ? known.filter((name) => !taken.has(name) && (holds(name) || holds(shown(name))))
    : layer?.named === null
      ? known.filter((name) => !taken.has(name))
      : [];
  const path = ["mattes", id, "names"];
  const set = (next: string[], what: string) => edit([{ op: "set", path, value: next }], what);
  /** Shows what a name would give, without taking it. */
  const show = (name: string | null) => preview(name === null ? [] : [{ op: "set", path, value: [name] }]);
  const add = (name: string) => {
    setSearch("");
    if (!names.includes(name)) set([...names, name], `add ${shown(name)} to ${nameOfMatte(id)}`);
  };
  const seen = (name: string) => ({
    onPointerEnter: () => show(name),
    onPointerLeave: () => show(null),
    onFocus: () => show(name),
    onBlur: () => show(null),
  });
  return (
    <div>
      <div className="mb-1.5 flex items-center gap-2 text-quiet">
        <select
          aria-label="Layer of the names"
          className="h-[22px] min-w-0 rounded-sm bg-control px-2 text-text"
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
        <span className="min-w-0 truncate">
          of {own.source}
          {names.length > FEW && `, ${names.length} names`}
        </span>
        {hasParts(known) && (
          <IconButton
            label="Browse the names by their parts"
            look="ghost"
            className="ml-auto h-[22px]!"
            aria-pressed={browsing}
            onClick={() => setBrowsing(!browsing)}
          >
            <ListTree size={13} />
          </IconButton>
        )}
      </div>
      <ul className="mb-1.5 flex max-h-[126px] flex-wrap gap-1 overflow-y-auto">
        {names.slice(0, listing).map((name) => (
          <NameChip
            key={name}
            name={name}
            alone={names.length === 1}
            onOut={() =>
              set(
                names.filter((other) => other !== name),
                `take ${shown(name)} out of ${nameOfMatte(id)}`,
              )
            }
          />
        ))}
        {names.length > listing && (
          <li>
            <button
              type="button"
              className="h-[22px] px-1 text-[11.5px] text-quiet hover:text-text"
              onClick={() => setListing(listing + MOST)}
            >
              {names.length - listing} more
            </button>
          </li>
        )}
      </ul>
      <SearchInput
        label="Add a name"
        placeholder={
          layer?.named === null ? "search the IDs, or #1a2b3c4d" : `search ${layer?.named} names, or a pattern with *`
        }
        className="h-[26px] w-full"
        value={search}
        onSearch={setSearch}
        onKeyDown={(event) => {
          event.stopPropagation();
          const first = search.includes("*") || !found.length ? wanted : found[0];
          if (event.key === "Enter" && first) add(first);
          if (event.key === "Escape") setSearch("");
        }}
      />
      {wanted && found.length === 0 && (
        <p className="mt-1 text-[11.5px] text-quiet">No name holds it; Enter adds it as it is written.</p>
      )}
      {layer?.named === null && !wanted && (
        <p className="mt-1 text-[11.5px] text-quiet">The file names nothing; these IDs are on this frame.</p>
      )}
      {browsing && !wanted && (
        <div className="mt-1 max-h-56 overflow-y-auto rounded-sm border border-line py-0.5">
          <NameTree branches={treeOf(known)} onAdd={add} onShow={show} />
        </div>
      )}
      {found.length > 0 && (
        <ul className="mt-1 max-h-44 overflow-y-auto rounded-sm border border-line">
          {found.slice(0, MOST).map((name) => (
            <li key={name} className="group flex items-center hover:bg-control">
              <button
                type="button"
                className="flex min-w-0 flex-1 items-baseline gap-1.5 px-2 py-1 text-left"
                onClick={() => add(name)}
                {...seen(name)}
              >
                <TailOfName name={shown(name)} className={areas.size && !areas.has(name) ? "text-quiet" : ""} />
                {shown(name) !== name && <TailOfName name={name} className="text-[11px] text-quiet" />}
                <span className="value ml-auto shrink-0 text-quiet">
                  {areas.has(name) ? told(areas.get(name) ?? 0) : areas.size ? "–" : ""}
                </span>
              </button>
              <button
                type="button"
                className="hidden shrink-0 pr-2 text-[11px] text-quiet hover:text-text group-focus-within:block group-hover:block"
                onClick={() => {
                  setSearch("");
                  set([name], `${nameOfMatte(id)} is ${shown(name)} now`);
                }}
                {...seen(name)}
              >
                only this
              </button>
            </li>
          ))}
          {found.length > MOST && (
            <li className="px-2 py-1 text-[11.5px] text-quiet">{found.length - MOST} more: type more of the name</li>
          )}
        </ul>
      )}
    </div>
  );
}
