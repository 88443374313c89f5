import { Crosshair } from "lucide-react";
import { useState } from "react";
import { type Card, type MatteRef, matteOf } from "../../../api/document";
import { useModels } from "../../../api/models";
import { Button } from "../../../controls/Button";
import { type Edit, useSession, useSessionParts } from "../../session";
import { listedMattes, pathOf, shownName } from "../../shotParts";
import { Parameters } from "../Parameters";
import { ChoiceRow } from "./ChoiceRow";

const REACH = 3;

/** What a text card says, the box behind it, and the line from it to something in the picture. */
export function TextPart({ card }: { card: Card }) {
  const { shot, edit } = useSessionParts("shot", "edit");
  const models = useModels();
  const path = [...pathOf(shot, card.id), "picture"];
  const saved = (card.picture?.text as string | undefined) ?? "";
  const [typed, setTyped] = useState<string | null>(null);
  if (!shot || !models) return null;
  const box = card.picture?.box as Record<string, unknown> | undefined;
  const leader = card.picture?.leader as ({ to: MatteRef } & Record<string, unknown>) | undefined;
  const put = (key: string, value: unknown, what: string) =>
    edit([{ op: "set", path: [...path, key], value } as Edit], what);
  const mattes = listedMattes(shot).map(([id, one]) => ({
    value: id,
    text: one.name ?? id,
  }));
  const commit = () => {
    const text = typed;
    setTyped(null);
    if (text !== null && text !== saved) put("text", text, `text of ${shownName(card)}`);
  };
  return (
    <>
      <textarea
        aria-label="Text"
        rows={Math.min(6, Math.max(2, (typed ?? saved).split("\n").length))}
        maxLength={4000}
        className="my-1 block w-full resize-y rounded-sm bg-control px-2 py-1"
        value={typed ?? saved}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "Escape") event.currentTarget.blur();
          if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) event.currentTarget.blur();
        }}
      />
      <Switch
        on={box !== undefined}
        text="on a box"
        onToggle={() => put("box", box ? null : {}, box ? "no box" : "a box")}
      />
      {box && <Parameters model={models.text_box} values={box} path={[...path, "box"]} />}
      <div className="flex h-[27px] items-center gap-2">
        <Button className="h-[22px]! px-2! text-[11.5px]" onClick={() => pointAt(card)}>
          <Crosshair size={12} /> {leader ? "Point at something else…" : "Point at…"}
        </Button>
        {leader && (
          <Button
            look="ghost"
            className="h-[22px]! px-1.5! text-[11.5px]"
            onClick={() => put("leader", null, `no line from ${shownName(card)}`)}
          >
            no line
          </Button>
        )}
      </div>
      {leader && (
        <>
          <ChoiceRow
            label="Line to"
            value={matteOf(leader.to)}
            choices={mattes}
            onChoose={(id) => put("leader", { ...leader, to: id }, `${shownName(card)} points at ${id}`)}
          />
          <Parameters model={models.text_leader} values={leader} path={[...path, "leader"]} skip={["to"]} />
        </>
      )}
    </>
  );
}

function Switch({ on, text, onToggle }: { on: boolean; text: string; onToggle: () => void }) {
  return (
    <label className="flex h-[27px] items-center gap-2">
      <input type="checkbox" checked={on} className="size-3.5 accent-verdigris" onChange={onToggle} />
      <span>{text}</span>
    </label>
  );
}

/** Asks for something in the picture, makes its matte, and leads a line from the text to it. */
function pointAt(card: Card): void {
  const { set } = useSession.getState();
  const take = async ([x, y]: [number, number]) => {
    const { touch, edit, shot } = useSession.getState();
    const matte = await touch({ x, y, radius: REACH, action: "matte" });
    if (!matte) return;
    const old = card.picture?.leader as Record<string, unknown> | undefined;
    const path = [...pathOf(shot, card.id), "picture", "leader"];
    await edit([{ op: "set", path, value: { ...old, to: matte } }], `${shownName(card)} points at ${matte}`);
    set({ openCard: card.id, openMatte: null, lookingAt: { kind: "picture" } });
  };
  set({ picking: { matte: null, what: "spot", words: "touch what the text points at", take } });
}
