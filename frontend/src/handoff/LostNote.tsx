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
