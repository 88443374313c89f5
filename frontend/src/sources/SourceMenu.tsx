import { Ellipsis } from "lucide-react";
import { useState } from "react";
import { IconButton } from "../controls/Button";
import { Menu } from "../controls/Menu";
import { AttachDialog } from "../passes/AttachDialog";
import { RemoveSource } from "./RemoveSource";
import { SourcesDialog } from "./SourcesDialog";

/** What can be done with a source: another in its place, passes that came late, or out of the shot. */
export function SourceMenu({ source }: { source: string }) {
  const [open, setOpen] = useState<"replace" | "attach" | "remove" | null>(null);
  const close = () => setOpen(null);
  return (
    <>
      <Menu
        trigger={
          <IconButton label={`Source ${source}`} look="ghost" className="h-[20px]! w-[22px]!">
            <Ellipsis size={13} />
          </IconButton>
        }
        sections={[
          {
            choices: [
              { key: "replace", label: "Replace it…", onPick: () => setOpen("replace") },
              { key: "attach", label: "Attach passes or mattes…", onPick: () => setOpen("attach") },
            ],
          },
          { choices: [{ key: "remove", label: "Remove it…", danger: true, onPick: () => setOpen("remove") }] },
        ]}
      />
      {open === "replace" && <SourcesDialog wish={{ replacing: source }} onClose={close} />}
      {open === "attach" && <AttachDialog source={source} onClose={close} />}
      {open === "remove" && <RemoveSource source={source} onClose={close} />}
    </>
  );
}

/** What a shot without any source says, and the first thing to do. */
export function NoSources({ onAdd }: { onAdd: () => void }) {
  return (
    <div className="flex flex-col gap-2 py-2 text-quiet">
      <p>
        <b className="text-text">No sources yet.</b> A source is one imported still, sequence or movie; a pass is one
        named picture in it; a matte says how much of a pixel belongs to something.
      </p>
      <p>
        <button type="button" className="text-verdigris underline" onClick={onAdd}>
          Add a source
        </button>
        , or drop files on the page.
      </p>
    </div>
  );
}
