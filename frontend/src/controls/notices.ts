import { toast } from "sonner";

const sentence = (message: string): string => message.charAt(0).toUpperCase() + message.slice(1);

/** Says what went wrong; it stays until it was read and put away. Said twice, it stands once. */
export function report(error: unknown): void {
  const message = sentence(error instanceof Error ? error.message : String(error));
  toast.error(message, { id: message, duration: Number.POSITIVE_INFINITY, closeButton: true });
}

/** Says what was done, with the way back. */
export function told(message: string, undo?: () => void): void {
  toast(message, undo && { action: { label: "Undo", onClick: undo }, duration: 10000 });
}
