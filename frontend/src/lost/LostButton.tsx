import { Popover } from "radix-ui";
import { Button } from "../controls/Button";
import { LostRow } from "./LostRow";
import { useLost } from "./useLost";

/** How many things the sources of the shot lost, with all of them and their remedies in one place. */
export function LostButton() {
  const lost = useLost();
  if (!lost.length) return null;
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button title="what cards and mattes ask of sources that these do not have">
          <span className="text-amber">{lost.length} lost</span>
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          aria-label="What is lost"
          className="z-40 max-h-[70vh] w-96 overflow-y-auto rounded-sm border border-line bg-panel p-2 shadow-xl"
        >
          <p className="px-1 pb-1 text-quiet">The picture is computed without these; nothing is mended by itself.</p>
          {lost.map((one) => (
            <LostRow key={`${one.card} ${one.matte} ${one.noun} ${one.name}`} lost={one} />
          ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
