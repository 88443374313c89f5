import { useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { answer, api, type ShotState } from "../api/client";
import { asCommand } from "../api/command";
import { tab, useSession } from "../bench/session";
import { Button } from "../controls/Button";
import { Choice } from "../controls/Choice";
import { DialogFrame } from "../controls/DialogFrame";
import { report } from "../controls/notices";
import { sentence } from "../controls/sentence";
import { SPACES } from "../handoff/formats";
import { MadeForDisplay, readByView, useMadeForDisplay } from "./MadeForDisplay";
import { changesOf, type Draft, draftOf, type View, wrongIn } from "./settingsDraft";

const VIEWS: [View, string][] = [
  ["srgb", "sRGB: light of 1 is white"],
  ["aces", "ACES 2.0: highlights roll off"],
];

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
  const before = draftOf(shot);
  const [draft, setDraft] = useState(before);
  const coded = useMadeForDisplay(shot, before.view === "srgb" && draft.view === "aces");
  const [asTheyWere, setAsTheyWere] = useState(true);
  const wrong = wrongIn(draft);
  const save = async () => {
    const { edits, words } = changesOf(shot, draft, asTheyWere ? coded.map(readByView) : []);
    if (edits.length) {
      const session = useSession.getState();
      try {
        const saved = await answer(
          api.POST("/api/shots/{shot_id}/edits", {
            params: { path: { shot_id: shot.id } },
            body: { base: shot.revision, edits, command: asCommand(words), gesture: crypto.randomUUID(), tab },
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
        <Choice
          label="Worked in"
          value={draft.working}
          options={SPACES}
          onChange={(working) => setDraft({ ...draft, working })}
        />
        <Choice label="View" value={draft.view} options={VIEWS} onChange={(view) => setDraft({ ...draft, view })} />
      </div>
      <MadeForDisplay sources={coded} on={asTheyWere} onTick={setAsTheyWere} />
      <p className="px-5 pb-3 text-quiet">
        A picture of another size than its sources shows them from its upper left corner; keys stay at their frames.
        What is read is turned into the light that is worked in; colours that were set keep their numbers, and look
        different. The view is how light is shown, and how PNG and movies are written; a source of pictures that were
        made for a display can be read by it.
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
