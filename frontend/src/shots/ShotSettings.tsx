import { useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { answer, api, type ShotState } from "../api/client";
import { type Edit, tab, useSession } from "../bench/session";
import { documentOf } from "../bench/shotParts";
import { Button } from "../controls/Button";
import { Choice } from "../controls/Choice";
import { DialogFrame } from "../controls/DialogFrame";
import { report } from "../controls/notices";
import { sentence } from "../controls/sentence";
import { MadeForDisplay, readByView, useMadeForDisplay } from "./MadeForDisplay";

type Fps = number | [number, number];
type Draft = {
  name: string;
  first: string;
  last: string;
  fps: string;
  width: string;
  height: string;
  aspect: string;
  view: View;
};
type View = "srgb" | "aces";

const VIEWS: [View, string][] = [
  ["srgb", "sRGB: light of 1 is white"],
  ["aces", "ACES 2.0: highlights roll off"],
];

const rateText = (fps: Fps): string => (Array.isArray(fps) ? fps.join("/") : String(fps));

/** 24, 23.976, or 24000/1001 as the pair of whole numbers it is. */
function rateFrom(text: string): Fps | null {
  const pair = /^\s*(\d+)\s*\/\s*(\d+)\s*$/.exec(text);
  if (pair) return [Number(pair[1]), Number(pair[2])];
  const plain = Number(text.replace(",", "."));
  return text.trim() && Number.isFinite(plain) && plain > 0 ? plain : null;
}

/** The name of a shot, its frames, rate and size: changed as one step that can be undone. */
export function ShotSettings({ shotId, onClose }: { shotId: number; onClose: () => void }) {
  const query = useQuery({
    queryKey: ["settings of", shotId],
    queryFn: () => answer(api.GET("/api/shots/{shot_id}", { params: { path: { shot_id: shotId } } })),
    staleTime: 0,
    gcTime: 0,
  });
  return (
    <DialogFrame shape="middle" onClose={onClose}>
      <Dialog.Title className="border-b border-line px-5 py-3 font-semibold">The shot</Dialog.Title>
      {query.error && (
        <p role="alert" className="p-5 text-coral">
          {query.error.message}
        </p>
      )}
      {query.data && <Fields shot={query.data} onClose={onClose} />}
    </DialogFrame>
  );
}

function Fields({ shot, onClose }: { shot: ShotState; onClose: () => void }) {
  const { format } = documentOf(shot);
  const before: Draft = {
    name: shot.name,
    first: String(format.first),
    last: String(format.last),
    fps: rateText(format.fps),
    width: String(format.width),
    height: String(format.height),
    aspect: String(format.pixel_aspect ?? 1),
    view: documentOf(shot).colour?.view ?? "srgb",
  };
  const [draft, setDraft] = useState(before);
  const coded = useMadeForDisplay(shot, before.view === "srgb" && draft.view === "aces");
  const [asTheyWere, setAsTheyWere] = useState(true);
  const fps = rateFrom(draft.fps);
  const aspect = Number(draft.aspect.replace(",", "."));
  const whole = (text: string) => (/^\s*-?\d+\s*$/.test(text) ? Number(text) : null);
  const numbers = {
    first: whole(draft.first),
    last: whole(draft.last),
    width: whole(draft.width),
    height: whole(draft.height),
  };
  const wrong =
    (!draft.name.trim() && "a shot needs a name") ||
    (Object.values(numbers).includes(null) && "frames and sizes are whole numbers") ||
    (fps === null && "the rate is a number such as 24, or 24000/1001") ||
    (!(aspect >= 0.1 && aspect <= 10) && "a pixel is 0.1 to 10 times as wide as high") ||
    ((numbers.last ?? 0) < (numbers.first ?? 0) && "the last frame comes at or after the first") ||
    ((numbers.width ?? 0) < 1 || (numbers.height ?? 0) < 1 ? "a picture has at least one pixel" : null);
  const save = async () => {
    const edits: Edit[] = [];
    const told: string[] = [];
    const name = draft.name.trim();
    if (name !== shot.name) {
      edits.push({ op: "set", path: ["name"], value: name });
      told.push(`call the shot ${name}`);
    }
    const next = { ...format, ...numbers, fps, ...(draft.aspect === before.aspect ? {} : { pixel_aspect: aspect }) };
    if (JSON.stringify(next) !== JSON.stringify(format)) {
      edits.push({ op: "set", path: ["format"], value: next });
      told.push(`format ${draft.width}×${draft.height}, ${draft.first} to ${draft.last}`);
    }
    if (draft.view !== before.view) {
      edits.push({ op: "set", path: ["colour", "view"], value: draft.view });
      if (asTheyWere) edits.push(...coded.map(readByView));
      told.push(`view ${draft.view === "aces" ? "ACES 2.0" : "sRGB"}`);
    }
    if (edits.length) {
      const session = useSession.getState();
      const words = told.length > 1 ? "name, format and view of the shot" : (told[0] ?? "");
      try {
        const saved = await answer(
          api.POST("/api/shots/{shot_id}/edits", {
            params: { path: { shot_id: shot.id } },
            body: { base: shot.revision, edits, command: words.slice(0, 200), gesture: crypto.randomUUID(), tab },
          }),
        );
        if (session.shotId === shot.id && session.saved) session.accept(saved);
      } catch (error) {
        report(error);
        return;
      }
    }
    onClose();
  };
  const field = (label: string, key: keyof Draft, wide = false) => (
    <label className={`flex flex-col gap-1 ${wide ? "col-span-2" : ""}`}>
      <span className="text-quiet">{label}</span>
      <input
        className={`h-7 rounded-sm bg-control px-2 ${wide ? "" : "value"}`}
        value={draft[key]}
        onChange={(event) => setDraft({ ...draft, [key]: event.target.value })}
      />
    </label>
  );
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (!wrong) save();
      }}
    >
      <div className="grid grid-cols-2 gap-3 px-5 py-4">
        {field("Name", "name", true)}
        {field("First frame", "first")}
        {field("Last frame", "last")}
        {field("Width", "width")}
        {field("Height", "height")}
        {field("Frames a second", "fps")}
        {field("Width of a pixel, in heights", "aspect")}
        <Choice label="View" value={draft.view} options={VIEWS} onChange={(view) => setDraft({ ...draft, view })} />
      </div>
      <MadeForDisplay sources={coded} on={asTheyWere} onTick={setAsTheyWere} />
      <p className="px-5 pb-3 text-quiet">
        A picture of another size than its sources shows them from its upper left corner; keys stay at their frames. The
        view is how light is shown, and how PNG and movies are written; a source of pictures that were made for a
        display can be read by it.
      </p>
      <div className="flex items-center justify-end gap-2 border-t border-line px-5 py-3">
        {wrong && (
          <span role="alert" className="mr-auto text-coral">
            {sentence(wrong)}.
          </span>
        )}
        <Button onClick={onClose}>Cancel</Button>
        <Button look="primary" type="submit" disabled={Boolean(wrong)}>
          Save
        </Button>
      </div>
    </form>
  );
}
