import { ClipboardList, Download, RotateCw, X } from "lucide-react";
import { toast } from "sonner";
import type { ShotState } from "../api/client";
import { useSession } from "../bench/session";
import { Button, IconButton } from "../controls/Button";
import { ProgressBar } from "../controls/ProgressBar";
import { sentence, withinLine } from "../controls/sentence";
import { ago, frameSpan } from "../controls/time";
import { downloadList, pleaseRender, toRender } from "./pleaseRender";
import { remedyOf } from "./remedies";
import { type Finding, SEVERITY, useCheckup, working } from "./useCheckup";

const NAMES = { error: "error", warning: "warning", note: "note" } as const;

/** What the check-up found, worst first, with what can be done about it; findings never stop anybody. */
export function FindingsPanel({ onLook }: { onLook: RowProps["onLook"] }) {
  const { checkup, order, cancel } = useCheckup();
  const shot = useSession((s) => s.shot);
  if (!checkup || !shot) return null;
  const busy = working(checkup);
  return (
    <aside className="flex w-[340px] shrink-0 flex-col border-l border-line bg-panel" aria-label="Check-up">
      <div className="flex items-center gap-3 border-b border-line px-4 py-3">
        <b>Check-up</b>
        <span className="text-quiet">
          {busy ? "" : checkup.state === "none" ? "not yet done" : checkup.changed_at && ago(checkup.changed_at)}
        </span>
        <span className="flex-1" />
        {busy ? (
          <Button onClick={cancel}>
            <X size={13} /> Stop
          </Button>
        ) : (
          <Button onClick={order}>
            <RotateCw size={13} /> {checkup.state === "none" ? "Examine" : "Again"}
          </Button>
        )}
      </div>
      {busy && (
        <div className="border-b border-line px-4 py-3" role="status">
          <div className="mb-1.5 flex text-quiet">
            {checkup.state === "queued" ? "waiting for the worker…" : "copying and examining frames"}
            <span className="value ml-auto">
              {checkup.done}/{checkup.total}
            </span>
          </div>
          <ProgressBar label="Examined" done={checkup.done} total={checkup.total} />
        </div>
      )}
      {toRender(checkup.findings).length > 0 && (
        <div className="flex items-center gap-2 border-b border-line px-4 py-2 text-quiet">
          <span className="flex-1">Only a new render ends {toRender(checkup.findings).length} of these.</span>
          <IconButton
            label="Copy the list of what to render"
            onClick={async () => {
              await navigator.clipboard.writeText(pleaseRender(shot.show, shot.name, checkup.findings));
              toast.success("Copied: a list of what to render, for whoever renders");
            }}
          >
            <ClipboardList size={14} />
          </IconButton>
          <IconButton
            label="Download the list of what to render"
            onClick={() => downloadList(shot.name, pleaseRender(shot.show, shot.name, checkup.findings))}
          >
            <Download size={14} />
          </IconButton>
        </div>
      )}
      <div className="min-h-0 flex-1 overflow-y-auto">
        {checkup.message && (
          <p role="alert" className="m-4 text-coral">
            {checkup.message}
          </p>
        )}
        {!busy && checkup.outdated && checkup.state !== "none" && (
          <p className="border-b border-line px-4 py-2 text-quiet">
            The sources have changed since: examine them again to be sure.
          </p>
        )}
        {checkup.state === "done" && checkup.findings.length === 0 && (
          <p className="m-4 text-quiet">Nothing found: every pass is what it should be.</p>
        )}
        {checkup.findings.map((finding) => (
          <FindingRow key={JSON.stringify(finding)} finding={finding} shot={shot} onLook={onLook} />
        ))}
      </div>
    </aside>
  );
}

type RowProps = { finding: Finding; shot: ShotState; onLook: (finding: Finding, where?: boolean) => void };

function FindingRow({ finding, shot, onLook }: RowProps) {
  const edit = useSession((s) => s.edit);
  const remedy = remedyOf(shot, finding);
  const frames = finding.frames.filter((frame) => frame !== 0);
  const where = [finding.source, finding.pass].filter(Boolean).join(" · ");
  return (
    <article className="border-b border-line px-4 py-3" aria-label={`${finding.rule}: ${where}`}>
      <div className="flex items-baseline gap-2">
        <span className={`text-[11px] font-semibold ${SEVERITY[finding.severity]}`}>{NAMES[finding.severity]}</span>
        <button
          type="button"
          className="min-w-0 truncate font-semibold hover:text-verdigris"
          onClick={() => onLook(finding)}
        >
          {where}
        </button>
        {frames.length > 0 && (
          <span className="value ml-auto shrink-0 text-quiet">{frameSpan(frames[0], frames.at(-1))}</span>
        )}
      </div>
      <p className="mt-1 text-quiet">{sentence(finding.message)}.</p>
      <div className="mt-2 flex flex-wrap gap-2 empty:hidden">
        {remedy && (
          <Button onClick={() => edit(remedy.edits, `${withinLine(remedy.label)}: ${where}`)}>{remedy.label}</Button>
        )}
        {finding.placed && (
          <Button look="ghost" onClick={() => onLook(finding, true)}>
            Show where
          </Button>
        )}
      </div>
    </article>
  );
}
