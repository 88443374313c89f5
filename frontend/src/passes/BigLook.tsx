import { Dialog } from "radix-ui";
import { useState } from "react";
import { useSession } from "../bench/session";
import { thumbAddress } from "../bench/viewer/looks";
import { Button } from "../controls/Button";
import { Thumb } from "../controls/Thumb";
import type { PassEntry } from "./groups";
import { type Finding, SEVERITY } from "./useCheckup";

export type Looked = PassEntry;
type Channel = "colour" | "red" | "green" | "blue" | "alpha";
const CHANNELS: Channel[] = ["colour", "red", "green", "blue", "alpha"];

/** One pass as large as the window allows, with channels and exposure for looking into the dark. */
export function BigLook({ looked, findings, onClose }: { looked: Looked; findings: Finding[]; onClose: () => void }) {
  const { shot, frame } = useSession();
  const [channel, setChannel] = useState<Channel>("colour");
  const [exposure, setExposure] = useState(0);
  if (!shot) return null;
  const own = findings.filter((one) => one.source === looked.source && one.pass === looked.name);
  const address = thumbAddress(shot.id, {
    kind: looked.isIds ? "ids" : "pass",
    source: looked.source,
    name: looked.name,
    revision: shot.revision,
    frame,
    scale: 1,
    exposure,
    channel,
  });
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/60" />
        <Dialog.Content
          className="fixed inset-6 z-50 flex flex-col rounded-sm border border-line bg-panel"
          aria-describedby={undefined}
        >
          <div className="flex items-center gap-3 border-b border-line px-4 py-2">
            <Dialog.Title className="font-semibold">{looked.name}</Dialog.Title>
            <span className="text-quiet">
              {looked.source} · {looked.kind.replaceAll("_", " ")} · {looked.detail} · frame {frame}
            </span>
            <span className="flex-1" />
            {!looked.isIds && (
              <>
                {CHANNELS.map((one) => (
                  <Button
                    key={one}
                    look={one === channel ? "plain" : "ghost"}
                    aria-pressed={one === channel}
                    onClick={() => setChannel(one)}
                  >
                    {one}
                  </Button>
                ))}
                <label className="flex items-center gap-2 text-quiet">
                  exposure
                  <input
                    type="range"
                    min={-6}
                    max={6}
                    step={0.5}
                    value={exposure}
                    onChange={(event) => setExposure(Number(event.target.value))}
                    className="w-28 accent-verdigris"
                  />
                  <span className="value w-9 text-right text-text">{exposure.toFixed(1)}</span>
                </label>
              </>
            )}
            <Button onClick={onClose}>Close</Button>
          </div>
          <div className="min-h-0 flex-1 bg-stage p-3">
            <Thumb address={address} alt={`${looked.name}, frame ${frame}`} className="h-full w-full object-contain" />
          </div>
          {own.map((finding) => (
            <p
              key={finding.rule + finding.message}
              className={`border-t border-line px-4 py-2 ${SEVERITY[finding.severity]}`}
            >
              {finding.message}
            </p>
          ))}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
