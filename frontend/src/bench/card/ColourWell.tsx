import { Pipette } from "lucide-react";
import { Popover } from "radix-ui";
import { useEffect, useRef, useState } from "react";
import { answer, api } from "../../api/client";
import { Button } from "../../controls/Button";
import { report } from "../../controls/notices";
import { useSession } from "../session";
import { type Colours, rounded, useColours } from "./useColours";

type Props = {
  label: string;
  /** Linear light. */
  colour: number[];
  onPreview: (colour: number[]) => void;
  onCommit: (colour: number[]) => void;
};

/** A colour as it looks, chosen by eye or taken from the picture. */
export function ColourWell({ label, colour, onPreview, onCommit }: Props) {
  const [open, setOpen] = useState(false);
  const colours = useColours();
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        aria-label={`${label}: choose it`}
        title="choose it by eye, or from the picture"
        className="h-[22px] w-[18px] shrink-0 rounded-sm border border-line hover:border-verdigris"
        style={{ background: colours.hex(colour) }}
      />
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          collisionPadding={8}
          className="z-40 w-[190px] rounded-sm border border-line bg-panel p-2 shadow-xl"
        >
          <ByEye label={label} colour={colour} colours={colours} onPreview={onPreview} onCommit={onCommit} />
          <Button
            className="mt-2 w-full justify-center"
            onClick={() => {
              setOpen(false);
              fromPicture(label, onCommit);
            }}
          >
            <Pipette size={12} /> From the picture
          </Button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** The browser's own choice of colours; what is brighter than white is shown as white until it is changed. */
function ByEye({ label, colour, colours, onPreview, onCommit }: Props & { colours: Colours }) {
  const field = useRef<HTMLInputElement>(null);
  const commit = useRef((_text: string) => {});
  commit.current = (text) => onCommit(colours.fromHex(text));
  useEffect(() => {
    // React's onChange comes with every move; this one when it is done
    const node = field.current;
    const done = () => node && commit.current(node.value);
    node?.addEventListener("change", done);
    return () => node?.removeEventListener("change", done);
  }, []);
  return (
    <input
      ref={field}
      type="color"
      aria-label={`${label} by eye`}
      className="block h-[34px] w-full cursor-pointer rounded-sm border border-line bg-control p-[3px]"
      defaultValue={colours.hex(colour)}
      onInput={(event) => onPreview(colours.fromHex(event.currentTarget.value))}
    />
  );
}

/** Asks for a place in the picture, and takes the light that is there. */
function fromPicture(label: string, take: (colour: number[]) => void): void {
  const { set } = useSession.getState();
  const picked = async ([x, y]: [number, number]) => {
    const { saved, frame, standing } = useSession.getState();
    if (!saved) return;
    try {
      const body = { kind: "picture" as const, card: standing, revision: saved.revision, frame, x, y, radius: 1 };
      const probe = await answer(
        api.POST("/api/shots/{shot_id}/probe", { params: { path: { shot_id: saved.id } }, body }),
      );
      take(probe.value.slice(0, 3).map((part) => rounded(Math.max(0, part ?? 0))));
    } catch (error) {
      report(error);
    }
  };
  set({ picking: { matte: null, what: "spot", words: `touch a colour for ${label.toLowerCase()}`, take: picked } });
}
