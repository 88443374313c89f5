import type { Treatment } from "../../api/document";
import type { Field, TreatmentModel } from "../../api/models";
import { useSession } from "../session";
import { documentOf } from "../shotParts";
import { Parameter } from "./Parameters";

const OF_LENS = ["f_stop", "focal_mm", "sensor_mm", "unit_m", "most"];

/** Values that a treatment does not look at as it is set. */
export function unusedOf(treatment: Treatment): string[] {
  if (treatment.kind === "cast")
    return !treatment.lay_down ? ["length", "foot"] : treatment.lay_down === 1 ? ["distance"] : [];
  if (treatment.kind === "bleed") return (treatment.rim ?? "edge") === "edge" ? ["black", "white"] : ["width"];
  if (treatment.kind !== "defocus") return [];
  const mode = treatment.mode ?? "radius";
  if (mode === "lens") return ["radius"];
  return mode === "uniform" ? [...OF_LENS, "focus", "camera"] : OF_LENS;
}

/** What a treatment takes from the shot's camera, by its own names. */
export const sharedOf = (treatment: Treatment, model: TreatmentModel): string[] =>
  treatment.camera === "shot" ? Object.keys(model.of_camera) : [];

/** The values of the shot's camera that a treatment uses: changed here, they change for all cards. */
export function CameraPart({ treatment, model }: { treatment: Treatment; model: TreatmentModel }) {
  const shot = useSession((s) => s.shot);
  const unused = unusedOf(treatment);
  const shared = sharedOf(treatment, model).filter((name) => !unused.includes(name));
  if (!shot || !shared.length) return null;
  const camera = documentOf(shot).camera ?? {};
  return (
    <section aria-label="Camera of the shot" className="mt-1 mb-1.5 border-line border-b pb-1.5">
      <h4 className="pb-0.5 text-[11px] text-faint">camera of the shot, for all cards that use it</h4>
      {shared.map((name) => {
        const of = model.of_camera[name] as string;
        const field = model.schema.properties[name] as Field;
        return <Parameter key={name} name={of} field={field} value={camera[of]} path={["camera", of]} />;
      })}
    </section>
  );
}
