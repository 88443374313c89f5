import { type DragEvent, useState } from "react";
import { type Brought, filesOf } from "./uploading";

/** A place that files can be dropped on: whether they hover over it, and its handlers. */
export function useDrop(bring: (files: Brought[]) => Promise<void>) {
  const [over, setOver] = useState(false);
  const on = {
    onDragOver: (event: DragEvent) => {
      event.preventDefault();
      setOver(true);
    },
    onDragLeave: () => setOver(false),
    onDrop: async (event: DragEvent) => {
      event.preventDefault();
      setOver(false);
      await bring(await filesOf(event.dataTransfer));
    },
  };
  return { over, on };
}
