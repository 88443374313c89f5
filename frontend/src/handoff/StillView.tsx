import { ChevronLeft, ChevronRight, X } from "lucide-react";
import { Dialog } from "radix-ui";
import { useState } from "react";
import type { RenderData } from "../api/client";
import { IconButton } from "../controls/Button";
import { DialogFrame } from "../controls/DialogFrame";

export const stillAddress = (render: RenderData, frame: number): string => `/api/renders/${render.id}/stills/${frame}`;

/** Looks at the frames of a render as they were written. */
export function StillView({ render, onClose }: { render: RenderData; onClose: () => void }) {
  const [index, setIndex] = useState(0);
  const last = render.done.length - 1;
  const frame = render.done[Math.min(index, last)];
  if (frame === undefined) return null;
  const step = (by: number) => setIndex(Math.min(last, Math.max(0, index + by)));
  return (
    <DialogFrame
      shape="whole"
      onClose={onClose}
      onKeyDown={(event) => {
        if (event.key === "ArrowLeft") step(-1);
        if (event.key === "ArrowRight") step(1);
      }}
    >
      <div className="flex h-11 shrink-0 items-center gap-3 border-b border-line px-4">
        <Dialog.Title className="font-semibold">{render.what}</Dialog.Title>
        <span className="value text-quiet">
          frame {frame} · revision {render.revision} · read from the file
        </span>
        <span className="flex-1" />
        {last > 0 && (
          <>
            <IconButton label="Frame before (←)" onClick={() => step(-1)}>
              <ChevronLeft size={15} />
            </IconButton>
            <span className="value w-14 text-center">
              {Math.min(index, last) + 1}/{last + 1}
            </span>
            <IconButton label="Frame after (→)" onClick={() => step(1)}>
              <ChevronRight size={15} />
            </IconButton>
          </>
        )}
        <IconButton label="Close (Esc)" look="ghost" onClick={onClose}>
          <X size={15} />
        </IconButton>
      </div>
      <div className="min-h-0 flex-1 bg-stage p-3">
        <img
          src={stillAddress(render, frame)}
          alt={`${render.what}, frame ${frame}`}
          className="h-full w-full object-contain"
        />
      </div>
    </DialogFrame>
  );
}
