import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { IconButton } from "../controls/Button";

type Props = { title: string; told: string; onClose: () => void; children?: ReactNode };

/** The head of a window that shows what was written: what it is of, what can be done, and closing it. */
export function WindowHead({ title, told, onClose, children }: Props) {
  return (
    <div className="flex h-11 shrink-0 items-center gap-3 border-b border-line px-4">
      <Dialog.Title className="font-semibold">{title}</Dialog.Title>
      <span className="value text-quiet">{told}</span>
      <span className="flex-1" />
      {children}
      <IconButton label="Close (Esc)" look="ghost" onClick={onClose}>
        <X size={15} />
      </IconButton>
    </div>
  );
}
