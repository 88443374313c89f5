import { Dialog } from "radix-ui";
import type { KeyboardEventHandler, ReactNode } from "react";

const SHAPES = {
  whole: "fixed inset-6",
  middle: "-translate-x-1/2 -translate-y-1/2 fixed top-1/2 left-1/2 max-h-[80vh] w-[560px]",
  wide: "-translate-x-1/2 -translate-y-1/2 fixed top-1/2 left-1/2 h-[80vh] w-[980px] max-w-[calc(100vw-48px)]",
};

type Props = {
  shape: keyof typeof SHAPES;
  onClose: () => void;
  onKeyDown?: KeyboardEventHandler;
  children: ReactNode;
};

/** A window over the page; Escape and a press outside close it. Put a Dialog.Title inside. */
export function DialogFrame({ shape, onClose, onKeyDown, children }: Props) {
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/60" />
        <Dialog.Content
          aria-describedby={undefined}
          // a focused button would show its tooltip, and Escape would close that first
          onOpenAutoFocus={(event) => {
            event.preventDefault();
            (event.currentTarget as HTMLElement).focus();
          }}
          tabIndex={-1}
          className={`${SHAPES[shape]} z-50 flex flex-col rounded-sm border border-line bg-panel outline-none`}
          onKeyDown={onKeyDown}
        >
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
