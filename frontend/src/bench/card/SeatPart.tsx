import { CircleAlert, CircleCheck, CircleDashed, type LucideIcon } from "lucide-react";
import { useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import type { Card } from "../../api/document";
import { useModels } from "../../api/models";
import { Button, Hint } from "../../controls/Button";
import { useSessionParts } from "../session";
import { shownName } from "../shotParts";
import { addedTreatment } from "./addedTreatment";
import { FoldedPart } from "./FoldedPart";
import { useOfCard } from "./useOfCard";

type Answer = Schemas["SeatAnswer"];

const LUMA = [0.2126, 0.7152, 0.0722];

/** What was measured of the card and of what is behind it, at full size. */
const useSeat = (card: Card, wanted: boolean) =>
  useOfCard("seat", card.id, wanted, (params) => answer(api.GET("/api/shots/{shot_id}/cards/seat", { params })));

/** Whether an element sits in what is behind it: measured when it is opened, and again after each change. */
export function SeatPart({ card }: { card: Card }) {
  const [open, setOpen] = useState(false);
  const kind = useModels()?.pictures.find((one) => one.kind === card.picture?.kind);
  const has = Boolean(kind?.seated) && (card.join ?? "over") === "over";
  const seat = useSeat(card, open && has);
  if (!has) return null;
  const answers = seat.isError ? [] : (seat.data?.answers ?? []);
  const off = answers.filter((one) => one.sits === false).length;
  const said = !open ? "does it sit?" : seat.isFetching ? "measuring…" : told(off, answers.length);
  return (
    <FoldedPart wide name="Seat" said={said} open={open} onToggle={() => setOpen(!open)}>
      {seat.isError && (
        <p role="alert" className="py-1 text-amber">
          {seat.error.message}
        </p>
      )}
      {answers.length > 0 && (
        <section aria-label="Seat check" aria-busy={seat.isFetching} className={seat.isFetching ? "opacity-60" : ""}>
          <div aria-hidden className="grid grid-cols-[1fr_58px_58px] text-right text-[11px] text-faint">
            <span />
            <span>of it</span>
            <span>behind</span>
          </div>
          {answers.map((one) => (
            <SeatRow key={one.kind} card={card} one={one} />
          ))}
        </section>
      )}
    </FoldedPart>
  );
}

const told = (off: number, all: number) => {
  if (!all) return "";
  return off ? `${off} of ${all} to look at` : "it sits";
};

type State = { icon: LucideIcon; tone: string; words: string };
const SITS: State = { icon: CircleCheck, tone: "text-verdigris", words: "sits" };
const SITS_NOT: State = { icon: CircleAlert, tone: "text-amber", words: "does not sit" };
const UNTOLD: State = { icon: CircleDashed, tone: "text-faint", words: "cannot be told" };

function SeatRow({ card, one }: { card: Card; one: Answer }) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const models = useModels();
  const state = one.sits === null ? UNTOLD : one.sits ? SITS : SITS_NOT;
  const { remedy } = one;
  const mend = (title: string, settings: { kind: string }) =>
    models && edit([addedTreatment(models, shot, card, settings).edit], `${title.toLowerCase()}: ${shownName(card)}`);
  return (
    <div className="border-t border-line/60 py-1 first:border-0">
      <Hint text={`${one.message}${one.unit ? ` (${one.unit})` : ""}`}>
        <div className="grid h-[20px] grid-cols-[16px_1fr_58px_58px] items-center">
          <state.icon size={12} className={state.tone} aria-label={state.words} />
          <span className={one.sits === null ? "text-quiet" : ""}>{one.title}</span>
          <Figure values={one.own} />
          <Figure values={one.behind} />
        </div>
      </Hint>
      {!one.sits && (
        <p className={`pl-4 text-[11.5px] leading-snug ${one.sits === null ? "text-faint" : "text-quiet"}`}>
          {one.message}
        </p>
      )}
      {remedy && (
        <Button
          className="mt-1 ml-4 h-[22px]! px-2! text-[11.5px]"
          onClick={() => mend(remedy.title, remedy.treatment as { kind: string })}
        >
          {remedy.title}
        </Button>
      )}
    </div>
  );
}

/** One number, or of three channels their luma. */
function Figure({ values }: { values: number[] }) {
  const value = values.length === 3 ? values.reduce((sum, v, c) => sum + v * (LUMA[c] ?? 0), 0) : values[0];
  return <span className="text-right font-mono text-[11px] text-quiet">{value === undefined ? "" : shown(value)}</span>;
}

const shown = (value: number) => (value !== 0 && Math.abs(value) < 0.1 ? value.toFixed(4) : value.toFixed(2));
