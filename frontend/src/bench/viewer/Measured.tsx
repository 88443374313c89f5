import { useSession } from "../session";
import { useTrust } from "./useTrust";

const percent = (share: number): string => `${(share * 100).toFixed(share < 0.0995 ? 1 : 0)} %`;
const LEAST = 0.0005;

/** What is measured of the matte or the sum that is looked at. */
export function Measured() {
  const kind = useSession((s) => s.lookingAt.kind);
  const told = useTrust();
  if (!told || (kind !== "leaks" && kind !== "sum")) return null;
  const figures: [string, number | null | undefined, string][] =
    kind === "sum"
      ? [
          ["once", told.once, ""],
          ["more than once", told.over, "text-amber"],
          ["less", told.under, "text-coral"],
        ]
      : [
          ["elsewhere", told.leak, "text-coral"],
          ["holes", told.hole, "text-amber"],
        ];
  return (
    <div
      role="status"
      aria-label={kind === "sum" ? "What the sum covers" : "What leaks"}
      className="value pointer-events-none absolute bottom-3 left-3 flex gap-3 rounded-sm border border-line bg-panel/95 px-2.5 py-1.5"
    >
      {kind === "leaks" && told.leak == null ? (
        <span className="text-quiet">no part of it here; click one</span>
      ) : (
        figures.map(([name, share, colour]) =>
          share == null ? null : (
            <span key={name} className={share > LEAST ? colour : "text-quiet"}>
              {percent(share)} <span className="font-sans text-[11.5px]">{name}</span>
            </span>
          ),
        )
      )}
    </div>
  );
}
