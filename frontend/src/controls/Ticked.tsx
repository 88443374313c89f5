import type { ReactNode } from "react";

type Props = { on: boolean; onTick: (on: boolean) => void; children: ReactNode };

/** Something that is so or not, with its words beside it. */
export const Ticked = ({ on, onTick, children }: Props) => (
  <label className="flex gap-2">
    <input
      type="checkbox"
      className="mt-0.5 h-[13px] w-[13px] shrink-0 accent-verdigris"
      checked={on}
      onChange={(event) => onTick(event.target.checked)}
    />
    <span className="flex flex-col gap-0.5">{children}</span>
  </label>
);
