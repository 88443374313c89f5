import { Tooltip } from "radix-ui";
import type { ButtonHTMLAttributes, ReactNode } from "react";
import { Link, type LinkProps } from "react-router";

type Look = "plain" | "primary" | "danger" | "ghost";

const LOOKS: Record<Look, string> = {
  plain: "bg-control hover:bg-raised text-text",
  primary: "bg-verdigris hover:brightness-110 text-[#0f1f1a] font-semibold",
  danger: "bg-control hover:bg-raised text-coral",
  ghost: "hover:bg-control text-quiet hover:text-text",
};

type Props = ButtonHTMLAttributes<HTMLButtonElement> & { look?: Look; children: ReactNode };

const SHAPE = "inline-flex h-[26px] items-center gap-1.5 rounded-sm px-2.5 whitespace-nowrap";

export function Button({ look = "plain", className = "", ...rest }: Props) {
  return <button type="button" className={`${SHAPE} ${LOOKS[look]} ${className}`} {...rest} />;
}

/** A way to another screen that looks like a button. */
export function ButtonLink({ look = "plain", ...rest }: LinkProps & { look?: Look }) {
  return <Link className={`${SHAPE} ${LOOKS[look]}`} {...rest} />;
}

type IconProps = Omit<Props, "children"> & { label: string; shortcut?: string; children: ReactNode };

/** A button that shows only an icon: its label is its name and its tooltip. */
export function IconButton({ label, shortcut, className = "", ...rest }: IconProps) {
  return (
    <Hint text={shortcut ? `${label}  (${shortcut})` : label}>
      <Button aria-label={label} className={`w-[26px] justify-center px-0! ${className}`} {...rest} />
    </Hint>
  );
}

export function Hint({ text, children }: { text: string; children: ReactNode }) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={5}
          className="z-50 max-w-72 rounded-sm border border-line bg-panel px-2 py-1 text-[11.5px] shadow-lg"
        >
          {text}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}
