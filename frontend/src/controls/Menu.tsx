import { DropdownMenu } from "radix-ui";
import type { ReactNode } from "react";

export type Choice = { key: string; label: ReactNode; note?: string; onPick: () => void; danger?: boolean };

const ITEM =
  "flex cursor-default items-center gap-3 rounded-sm px-2 py-1.5 outline-none data-[highlighted]:bg-raised select-none";

export type Section = { title?: string; choices: Choice[] };
const offers = (section: Section): boolean => section.choices.length > 0;

/** A menu of actions under any trigger; `sections` are separated by a line. */
export function Menu({ trigger, sections }: { trigger: ReactNode; sections: Section[] }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          sideOffset={4}
          align="start"
          collisionPadding={8}
          className="z-40 max-h-[var(--radix-dropdown-menu-content-available-height)] min-w-44 overflow-auto rounded-sm border border-line bg-panel p-1 shadow-xl"
        >
          {sections.filter(offers).map((section, index) => (
            <DropdownMenu.Group
              key={section.title ?? String(index)}
              className={index ? "mt-1 border-t border-line pt-1" : ""}
            >
              {section.title && <DropdownMenu.Label className="heading px-2 py-1">{section.title}</DropdownMenu.Label>}
              {section.choices.map((choice) => (
                <DropdownMenu.Item
                  key={choice.key}
                  onSelect={choice.onPick}
                  className={`${ITEM} ${choice.danger ? "text-coral" : ""}`}
                >
                  <span className="flex flex-1 items-center gap-2">{choice.label}</span>
                  {choice.note && <span className="text-[11px] text-quiet">{choice.note}</span>}
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.Group>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
