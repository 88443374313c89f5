import { toast } from "sonner";
import { sentence } from "./sentence";

/** What has to be read stays until it is put away. */
export const STAYS = { duration: Number.POSITIVE_INFINITY, closeButton: true };

/** Says what went wrong; it stays until it was read and put away. Said twice, it stands once. */
export function report(error: unknown): void {
  const message = sentence(error instanceof Error ? error.message : String(error));
  toast.error(message, { id: message, ...STAYS });
}

/** Says what was done, with the way back; how the notice is put away. */
export function told(message: string, undo?: () => void): () => void {
  const way = undo && { action: { label: "Undo", onClick: undo }, duration: 20000, closeButton: true };
  const notice = toast(message, way);
  return () => toast.dismiss(notice);
}
