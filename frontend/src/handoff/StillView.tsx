import { ChevronLeft, ChevronRight } from "lucide-react";
import { useState } from "react";
import type { RenderData } from "../api/client";
import { IconButton } from "../controls/Button";
import { DialogFrame } from "../controls/DialogFrame";
import { WindowHead } from "./WindowHead";

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
      <WindowHead
        title={render.what}
        told={`frame ${frame} · revision ${render.revision} · read from the file`}
        onClose={onClose}
      >
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
      </WindowHead>
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
