import type { ReactNode } from "react";
import type { ShotState } from "../../api/client";
import { documentOf } from "../shotParts";

type SectionProps = { title: string; note?: string; action?: ReactNode; children: ReactNode };

/** A titled part of the tray. */
export function Section({ title, note, action, children }: SectionProps) {
  return (
    <section className="mb-3" aria-label={title}>
      <h3 className="heading mb-1.5 flex items-center gap-1.5">
        {title}
        <span className={`font-normal ${action ? "" : "ml-auto"}`}>{note}</span>
        {action}
      </h3>
      {children}
    </section>
  );
}

/** How many times as wide as high the frame is, as small pictures have it. */
export const aspectOf = (shot: ShotState): number => {
  const { width, height, pixel_aspect = 1 } = documentOf(shot).format;
  return (width * pixel_aspect) / height;
};
