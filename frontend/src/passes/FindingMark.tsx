import { CircleAlert } from "lucide-react";
import { Hint } from "../controls/Button";
import { type Finding, SEVERITY } from "./useCheckup";

/** A mark in the corner of a picture that the check-up found something about; its tooltip says what. */
export function FindingMark({ finding, size = 14 }: { finding: Finding | undefined; size?: number }) {
  if (!finding) return null;
  return (
    <Hint text={finding.message}>
      <span className={`absolute top-1 right-1 rounded-full bg-ground/80 p-0.5 ${SEVERITY[finding.severity]}`}>
        <CircleAlert size={size} aria-label={`Finding: ${finding.message}`} />
      </span>
    </Hint>
  );
}
