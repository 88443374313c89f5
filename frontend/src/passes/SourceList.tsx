import type { Schemas } from "../api/client";
import { fileOf } from "../api/files";
import { SourceMenu } from "../sources/SourceMenu";
import { NewerVersion } from "./NewerVersion";

/** The sources of the shot: where each lies, what is newer, what can be done with it, and why one cannot be read. */
export function SourceList({ sources }: { sources: Schemas["SourceData"][] }) {
  return (
    <ul className="mb-4 flex flex-wrap gap-2" aria-label="Sources">
      {sources.map((source) => (
        <li
          key={source.name}
          className={`flex max-w-full items-center gap-2 rounded-sm border bg-panel py-1 pr-1 pl-2.5 ${source.problem ? "border-coral/50" : "border-line"}`}
        >
          <b className="shrink-0">{source.name}</b>
          {source.problem ? (
            <span role="alert" className="text-coral">
              {source.problem}
            </span>
          ) : (
            <span className="value max-w-64 truncate text-quiet" title={source.path}>
              {fileOf(source.path)}
            </span>
          )}
          <NewerVersion source={source.name} />
          <SourceMenu source={source.name} />
        </li>
      ))}
    </ul>
  );
}
