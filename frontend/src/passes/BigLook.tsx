import { ChevronLeft, ChevronRight } from "lucide-react";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { PICTURE_KINDS } from "../api/document";
import { useSessionParts } from "../bench/session";
import { thumbAddress } from "../bench/viewer/looks";
import { Button, IconButton } from "../controls/Button";
import { DialogFrame } from "../controls/DialogFrame";
import { Thumb } from "../controls/Thumb";
import { AttachedPart } from "./AttachedPart";
import type { PassEntry } from "./groups";
import { PassSettings } from "./PassSettings";
import { type Range, SpanControl } from "./SpanControl";
import { type Finding, passesOf, SEVERITY } from "./useCheckup";

type Channel = "colour" | "red" | "green" | "blue" | "alpha";
const CHANNELS: Channel[] = ["colour", "red", "green", "blue", "alpha"];
type Props = {
  looked: PassEntry;
  all: PassEntry[];
  findings: Finding[];
  /** The rule whose places are marked at first. */
  showing?: string;
  onLook: (pass: PassEntry | null) => void;
};

/** One pass as large as the window allows: channels, exposure or a range of values, and how it is read. */
export function BigLook({ looked, all, findings, showing, onLook }: Props) {
  const { shot, frame } = useSessionParts("shot", "frame");
  const [channel, setChannel] = useState<Channel>("colour");
  const [exposure, setExposure] = useState(0);
  const [range, setRange] = useState<Range | null>(null);
  const [rule, setRule] = useState<string | null>(showing ?? null);
  if (!shot) return null;
  const step = (by: number) => {
    const next = all[all.indexOf(looked) + by];
    if (!next) return;
    setRange(null);
    setRule(null);
    setChannel("colour");
    onLook(next);
  };
  const place = all.findIndex((one) => one.source === looked.source && one.name === looked.name);
  const own = findings.filter((one) => one.source === looked.source && passesOf(one).includes(looked.name));
  const whose = { source: looked.source, name: looked.name };
  const isLight = PICTURE_KINDS.includes(looked.kind);
  const marked = rule && new URLSearchParams({ revision: String(shot.revision), frame: String(frame), rule, ...whose });
  const address = marked
    ? `/api/shots/${shot.id}/where?${marked}`
    : thumbAddress(shot.id, {
        kind: looked.isIds ? "ids" : "pass",
        ...whose,
        revision: shot.revision,
        frame,
        scale: 1,
        exposure: isLight ? exposure : 0,
        channel,
        low: isLight ? undefined : range?.[0],
        high: isLight ? undefined : range?.[1],
      });
  return (
    <DialogFrame
      shape="whole"
      onClose={() => onLook(null)}
      onKeyDown={(event) => {
        if (event.target instanceof HTMLInputElement || event.target instanceof HTMLSelectElement) return;
        if (event.key === "ArrowLeft") step(-1);
        if (event.key === "ArrowRight") step(1);
      }}
    >
      <div className="flex items-center gap-3 border-b border-line px-4 py-2">
        <Dialog.Title className="font-semibold">{looked.name}</Dialog.Title>
        <span className="truncate text-quiet">
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
            {isLight && <Exposure value={exposure} onChange={setExposure} />}
          </>
        )}
        <IconButton label="Pass before (←)" disabled={place <= 0} onClick={() => step(-1)}>
          <ChevronLeft size={15} />
        </IconButton>
        <IconButton label="Pass after (→)" disabled={place === all.length - 1} onClick={() => step(1)}>
          <ChevronRight size={15} />
        </IconButton>
        <Button onClick={() => onLook(null)}>Close</Button>
      </div>
      <div className="flex min-h-0 flex-1">
        <div className="flex min-w-0 flex-1 flex-col">
          <div className="min-h-0 flex-1 bg-stage p-3">
            <Thumb
              address={address}
              alt={`${looked.name}, frame ${frame}`}
              className="h-full w-full object-contain"
              large
            />
          </div>
          {!isLight && !looked.isIds && (
            <SpanControl key={looked.source + looked.name} looked={looked} range={range} onRange={setRange} />
          )}
        </div>
        {looked.isIds && looked.attached.length > 0 && (
          <aside className="w-[230px] shrink-0 border-l border-line p-4" aria-label="Where it lies">
            <AttachedPart looked={looked} />
          </aside>
        )}
        {!looked.isIds && <PassSettings key={looked.source + looked.name} looked={looked} all={all} />}
      </div>
      {own.map((finding) => (
        <div
          key={finding.rule + finding.message}
          className={`flex items-center gap-3 border-t border-line px-4 py-2 ${SEVERITY[finding.severity]}`}
        >
          <span className="flex-1">{finding.message}</span>
          {finding.placed && (
            <Button
              aria-pressed={rule === finding.rule}
              onClick={() => setRule(rule === finding.rule ? null : finding.rule)}
            >
              {rule === finding.rule ? "Hide the places" : "Show where"}
            </Button>
          )}
        </div>
      ))}
    </DialogFrame>
  );
}

function Exposure({ value, onChange }: { value: number; onChange: (stops: number) => void }) {
  return (
    <label className="flex items-center gap-2 text-quiet">
      exposure
      <input
        type="range"
        min={-6}
        max={6}
        step={0.5}
        value={value}
        onChange={(event) => onChange(Number(event.target.value))}
        className="w-28 accent-verdigris"
      />
      <span className="value w-9 text-right text-text">{value.toFixed(1)}</span>
    </label>
  );
}
