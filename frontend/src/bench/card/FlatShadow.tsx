import { type Keys, type Treatment, valueAt } from "../../api/document";
import { useSession } from "../session";

const FLAT = 0.02; // of what casts it is seen as its height

/** Told where a shadow on the ground falls along the picture's plane: seen from the side nothing is left of it. */
export function FlatShadow({ treatment }: { treatment: Treatment }) {
  const frame = useSession((s) => s.frame);
  const value = (key: string, usual: number) => valueAt<number>((treatment[key] ?? usual) as number | Keys, frame);
  const laid = value("lay_down", 0);
  const tall = 1 - laid + laid * value("length", 1) * Math.sin((value("angle", -50) * Math.PI) / 180);
  if (treatment.kind !== "cast" || Math.abs(tall) > FLAT) return null;
  return (
    <p role="status" className="py-1 text-[11.5px] text-amber">
      Here it falls along the picture's plane, and has no area: turn it, or lay it down farther.
    </p>
  );
}
