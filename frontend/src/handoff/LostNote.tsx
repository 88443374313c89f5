import { Link } from "react-router";
import type { Lost } from "../lost/useLost";

/** Says before anything is rendered what it would be rendered without. */
export function LostNote({ lost, shotId }: { lost: Lost[]; shotId: number }) {
  if (!lost.length) return null;
  return (
    <section aria-label="Lost" className="rounded-sm border border-amber/50 p-2">
      <p className="mb-1 font-semibold text-amber">
        {lost.length === 1 ? "One thing is" : `${lost.length} things are`} lost: it would be rendered without.
      </p>
      <ul className="list-disc pl-4 text-[11.5px] text-amber">
        {lost.map((one) => (
          <li key={one.message}>{one.message}</li>
        ))}
      </ul>
      <Link to={`/shots/${shotId}`} className="mt-1 inline-block text-[11.5px] text-verdigris underline">
        Mend it on the bench
      </Link>
    </section>
  );
}

/** Says before anything is rendered on which frames a source has no file. */
export function MissingNote({ missing }: { missing: number[] }) {
  const frames = [...new Set(missing)].sort((a, b) => a - b);
  if (!frames.length) return null;
  const which =
    frames.length === 1 ? `frame ${frames[0]}` : `${frames.length} frames between ${frames[0]} and ${frames.at(-1)}`;
  return (
    <p className="rounded-sm border border-amber/50 p-2 text-[11.5px] text-amber" role="status">
      A source has no file on {which}: rendering stops there, unless they are left out or the source is set to hold its
      nearest.
    </p>
  );
}
