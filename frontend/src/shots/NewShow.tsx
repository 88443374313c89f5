import { Plus } from "lucide-react";
import { Popover } from "radix-ui";
import { useState } from "react";
import { Button } from "../controls/Button";

/** Makes a show that is still empty. */
export function NewShow({
  onName,
  look = "plain",
}: {
  onName: (name: string) => Promise<boolean>;
  look?: "plain" | "ghost";
}) {
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button look={look}>
          <Plus size={13} /> New show
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          className="z-40 rounded-sm border border-line bg-panel p-3 shadow-xl"
          aria-label="New show"
        >
          <form
            className="flex gap-2"
            onSubmit={async (event) => {
              event.preventDefault();
              if (await onName(name)) {
                setName("");
                setOpen(false);
              }
            }}
          >
            <input
              aria-label="Name of the new show"
              placeholder="name of the show"
              maxLength={120}
              className="h-[26px] w-52 rounded-sm bg-control px-2"
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
            <Button look="primary" type="submit" disabled={!name.trim()}>
              Make it
            </Button>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
