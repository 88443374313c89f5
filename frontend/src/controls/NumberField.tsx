import { Activity, RotateCcw } from "lucide-react";
import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import { valueAt } from "../api/document";
import { Hint } from "./Button";
import { numberFrom, UNDERSTOOD } from "./numbers";
import { type Span, ValueGraph } from "./ValueGraph";

type Props = {
  label: string;
  value: unknown;
  fallback: number;
  low: number;
  high: number;
  soft: [number, number];
  step: number;
  unit?: string;
  hint?: string;
  span?: Span;
  compact?: boolean;
  /** While dragging: show it, do not save it. */
  onPreview: (value: number) => void;
  /** Once, at the end of the gesture. */
  onCommit: (value: number) => void;
  onToggleKey?: () => void;
  onReset?: () => void;
  /** Offered where the number can be made to flicker. */
  onFlicker?: () => void;
};

const digitsOf = (step: number) => (step >= 1 ? 0 : step >= 0.1 ? 1 : 2);

/** A number: drag it, type it, step it with the arrow keys. Its lower edge is a graph of its value over the shot. */
export function NumberField(props: Props) {
  const { label, low, high, soft, step, unit, span, onPreview, onCommit } = props;
  const saved = typeof props.value === "undefined" ? props.fallback : props.value;
  const settled = valueAt(saved as number, span?.frame ?? 0);
  /** What a drag shows until it is saved, over the value that it began from. */
  const [draft, setDraft] = useState<{ value: number; over: number } | null>(null);
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState(false);
  /** The same at once: leaving the field follows within the key that ends the typing. */
  const typing = useRef<string | null>(null);
  const drag = useRef<{ x: number; from: number; moved: boolean; value: number } | null>(null);
  const field = useRef<HTMLInputElement>(null);
  const shown = draft?.over === settled ? draft.value : settled;
  const limit = (value: number) => Math.min(high, Math.max(low, value));
  const rounded = (value: number) => Number(limit(value).toFixed(digitsOf(step) + 1));

  const down = (event: PointerEvent<HTMLElement>) => {
    if (event.button !== 0 || text !== null) return;
    drag.current = { x: event.clientX, from: shown, moved: false, value: shown };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const move = (event: PointerEvent<HTMLElement>) => {
    const start = drag.current;
    if (!start) return;
    const by = event.clientX - start.x;
    if (!start.moved && Math.abs(by) < 3) return;
    start.moved = true;
    const speed = ((soft[1] - soft[0]) / 220) * (event.shiftKey ? 0.1 : 1);
    start.value = rounded(start.from + by * speed);
    setDraft({ value: start.value, over: settled });
    onPreview(start.value);
  };
  const up = () => {
    const start = drag.current;
    drag.current = null;
    if (start?.moved) {
      onCommit(start.value);
      // it is shown as the value itself from here on, or as what it was where it is refused
      setDraft(null);
    } else if (start) field.current?.select();
  };
  const letGo = () => {
    typing.current = null;
    setText(null);
    setWrong(false);
  };
  /** Whether what was typed could be taken. */
  const commitText = (): boolean => {
    if (typing.current === null) return true;
    const typed = numberFrom(typing.current, settled);
    if (typed === null) return false;
    letGo();
    if (rounded(typed) !== settled) onCommit(rounded(typed));
    return true;
  };
  const keys = (event: KeyboardEvent<HTMLInputElement>) => {
    // undo belongs to the page unless something is being typed
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && text === null) {
      event.currentTarget.blur();
      return;
    }
    event.stopPropagation();
    if (event.key === "Enter") {
      // the keys go back to the page: Space plays, Ctrl Z undoes
      if (commitText()) event.currentTarget.blur();
      else setWrong(true);
    } else if (event.key === "Escape") {
      letGo();
      event.currentTarget.blur();
    } else if (event.key.toLowerCase() === "k" && props.onToggleKey && !event.ctrlKey && !event.metaKey) {
      event.preventDefault();
      if (commitText()) props.onToggleKey();
    } else if (event.key === "ArrowUp" || event.key === "ArrowDown") {
      event.preventDefault();
      letGo();
      const by = (event.key === "ArrowUp" ? 1 : -1) * step * (event.shiftKey ? 10 : 1);
      onCommit(rounded(shown + by));
    }
  };
  const share = Math.min(1, Math.max(0, (shown - soft[0]) / (soft[1] - soft[0])));
  const changed = props.value !== undefined && !(typeof props.value === "number" && props.value === props.fallback);
  return (
    <div
      className={
        props.compact ? "min-w-0 flex-1" : "group grid h-[27px] grid-cols-[78px_1fr_62px_16px] items-center gap-2"
      }
    >
      {!props.compact && (
        <div className="relative flex min-w-0 items-center">
          <Hint text={props.hint ? `${label}: ${props.hint}` : label}>
            <span className="truncate text-quiet">{label}</span>
          </Hint>
          {props.onFlicker && (
            <button
              type="button"
              aria-label={`Let ${label} flicker`}
              title="let it flicker, as a flame does"
              onClick={props.onFlicker}
              className="absolute right-0 rounded-sm bg-panel px-0.5 text-quiet opacity-0 hover:text-text focus-visible:opacity-100 group-hover:opacity-100"
            >
              <Activity size={12} />
            </button>
          )}
        </div>
      )}
      {!props.compact && (
        <div
          className="relative h-4 cursor-ew-resize touch-none"
          onPointerDown={down}
          onPointerMove={move}
          onPointerUp={up}
          aria-hidden="true"
        >
          <div className="absolute top-[7px] h-[3px] w-full rounded bg-line" />
          <div className="absolute top-[7px] h-[3px] rounded bg-quiet" style={{ width: `${share * 100}%` }} />
          <div
            className="absolute top-[3px] h-[11px] w-[3px] rounded-[1px] bg-text"
            style={{ left: `calc(${share * 100}% - 1px)` }}
          />
        </div>
      )}
      <div className="relative">
        <input
          ref={field}
          aria-label={label}
          inputMode="decimal"
          aria-invalid={wrong || undefined}
          aria-keyshortcuts={props.onToggleKey && "K"}
          title={wrong ? `type ${UNDERSTOOD}` : undefined}
          className={`value h-[22px] w-full cursor-ew-resize rounded-sm bg-control pr-1.5 pb-[3px] text-right focus:cursor-text ${wrong ? "outline-coral! text-coral" : ""}`}
          value={text ?? `${shown.toFixed(digitsOf(step))}${unit === "px" || unit === "°" ? ` ${unit}` : ""}`}
          onChange={(event) => {
            typing.current = event.target.value;
            setText(event.target.value);
            setWrong(false);
          }}
          onFocus={(event) => event.target.select()}
          onBlur={() => commitText() || letGo()}
          onKeyDown={keys}
          onPointerDown={down}
          onPointerMove={move}
          onPointerUp={up}
          spellCheck={false}
        />
        {span && <ValueGraph value={saved} span={span} soft={soft} label={label} onToggle={props.onToggleKey} />}
      </div>
      {!props.compact && (
        <button
          type="button"
          aria-label={`Reset ${label}`}
          onClick={props.onReset}
          disabled={!changed}
          className={`text-faint hover:text-text ${changed ? "" : "invisible"}`}
        >
          <RotateCcw size={12} />
        </button>
      )}
    </div>
  );
}
