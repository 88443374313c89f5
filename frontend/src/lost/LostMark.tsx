import { TriangleAlert } from "lucide-react";
import { Hint } from "../controls/Button";

/** A mark on a card or a matte whose source lost something that it asks for. */
export const LostMark = ({ message, corner = true }: { message: string; corner?: boolean }) => (
  <Hint text={message}>
    <span className={`rounded-sm bg-ground/85 p-0.5 text-amber ${corner ? "absolute top-1 left-1" : ""}`}>
      <TriangleAlert size={12} aria-label={`Lost: ${message}`} />
    </span>
  </Hint>
);
