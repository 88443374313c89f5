import { Plus } from "lucide-react";
import { Popover } from "radix-ui";
import { useState } from "react";
import { Button } from "../controls/Button";
import { NameForm } from "../controls/NameForm";

/** Makes a show that is still empty. */
export function NewShow({
  onName,
  look = "plain",
}: {
  onName: (name: string) => Promise<boolean>;
  look?: "plain" | "ghost";
}) {
  const [open, setOpen] = useState(false);
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
          <NameForm
            label="Name of the new show"
            placeholder="name of the show"
            action="Make it"
            look="primary"
            width="w-52"
            onName={async (name) => {
              const made = await onName(name);
              if (made) setOpen(false);
              return made;
            }}
          />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
