import { DropdownMenu } from "radix-ui";
import { type KeyboardEvent, type ReactNode, useRef, useState } from "react";
import { holding } from "./holding";

/** `find` is what it is found by, where the label is not a text. */
export type Choice = {
  key: string;
  label: ReactNode;
  find?: string;
  note?: string;
  onPick: () => void;
  danger?: boolean;
};

const ITEM =
  "flex cursor-default items-center gap-3 rounded-sm px-2 py-1.5 outline-none data-[highlighted]:bg-raised select-none";
/** So many choices are looked through at a glance; of more, those stay that hold what is typed. */
const AT_A_GLANCE = 16;

export type Section = { title?: string; choices: Choice[] };
const offers = (section: Section): boolean => section.choices.length > 0;
const foundBy = ({ find, key, label }: Choice): string => find ?? (typeof label === "string" ? label : key);

/** Those choices of which a text holds what is typed. */
function holdingChoices(sections: Section[], wanted: string, text: (choice: Choice) => string): Section[] {
  const holds = holding(wanted);
  return sections.map((section) => ({ ...section, choices: section.choices.filter((one) => holds(text(one))) }));
}

/** A menu of actions under any trigger; `sections` are separated by a line. What is typed into a long one is looked for in its labels, else in its notes. */
export function Menu({ trigger, sections }: { trigger: ReactNode; sections: Section[] }) {
  const [open, setOpen] = useState(false);
  const [wanted, setWanted] = useState("");
  const content = useRef<HTMLDivElement>(null);
  const count = (some: Section[]) => some.reduce((sum, section) => sum + section.choices.length, 0);
  const many = count(sections) > AT_A_GLANCE;
  const named = wanted ? holdingChoices(sections, wanted, foundBy) : sections;
  const found = count(named) ? named : holdingChoices(sections, wanted, ({ note }) => note ?? "");
  const opened = (now: boolean) => {
    setOpen(now);
    setWanted("");
  };
  const typed = (event: KeyboardEvent) => {
    if (!many || event.ctrlKey || event.metaKey || event.altKey) return;
    const first = found.find(offers)?.choices[0];
    if (event.key === "Enter" && wanted && first && event.target === content.current) {
      opened(false);
      first.onPick();
    } else if (event.key === "Backspace") setWanted(wanted.slice(0, -1));
    else if (event.key.length === 1 && (event.key !== " " || wanted)) setWanted(wanted + event.key);
    else return;
    event.preventDefault();
    // the choice that has the focus may go: the keys stay with the menu
    content.current?.focus();
  };
  return (
    <DropdownMenu.Root open={open} onOpenChange={opened}>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          ref={content}
          sideOffset={4}
          align="start"
          collisionPadding={8}
          onKeyDown={typed}
          onEscapeKeyDown={(event) => {
            if (!wanted) return;
            event.preventDefault();
            setWanted("");
          }}
          className="z-40 max-h-[var(--radix-dropdown-menu-content-available-height)] min-w-44 overflow-auto rounded-sm border border-line bg-panel p-1 shadow-xl outline-none"
        >
          {many && (
            <div
              role="status"
              className="sticky -top-1 z-10 -mx-1 -mt-1 mb-1 border-b border-line bg-panel px-3 py-1.5 text-[11.5px] text-quiet"
            >
              {wanted ? (
                <>
                  <span className="text-text">{wanted}</span> · {count(found) || "none"} of {count(sections)}
                </>
              ) : (
                "type to find"
              )}
            </div>
          )}
          {found.filter(offers).map((section, index) => (
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
