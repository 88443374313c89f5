import { Dialog } from "radix-ui";

const KEYS: [string, string][] = [
  ["Space", "play and pause"],
  ["← →", "one frame back or on"],
  ["Home End", "first and last frame (on the ruler)"],
  ["Alt ← →", "stand on the card behind or in front"],
  ["Alt Shift ← →", "move the open card back or on"],
  ["Ctrl D", "duplicate the open card, or those that are chosen"],
  ["Delete", "delete the focused card, with those that are chosen beside it; or the focused treatment"],
  ["Ctrl C, Ctrl V", "copy cards, and put them into this shot or another one of the show"],
  ["S", "scopes of what is seen"],
  ["N", "comments: what people say of the shot, and back to the card"],
  ["I", "the open card by itself: on grey, on checks, and back"],
  ["G", "bundle the cards that are chosen"],
  ["B", "flip: before and after the open treatment, or what else it is compared with"],
  ["Shift B", "both beside each other: a wipe, whose edge is dragged"],
  ["D", "how far both are apart; exposure makes it brighter"],
  ["H", "history: all steps of the shot, and back to the card"],
  ["F", "fit the picture"],
  ["1", "one picture pixel on one screen pixel"],
  ["+ −", "nearer and farther"],
  ["V", "pin the values under the cursor; off the picture, let them go"],
  ["U", "what lies under that: light the next thing in this pixel"],
  ["P", "back to the finished picture"],
  ["Ctrl Z", "undo"],
  ["Ctrl Shift Z", "redo"],
  ["Esc", "let go: of a touch, a comparison, a look, a card stood on, chosen cards; back out of a bundle"],
  ["Tab, Enter", "walk over the page, press what is focused: the blank always plays"],
  ["Tab, ← ↑ → ↓", "in the picture: the cursor, by ten pixels with Shift; Enter touches, Shift Enter gathers"],
  ["K", "in a number: set a key here, or take it away"],
  ["?", "this sheet"],
];

export function KeySheet({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/50" />
        <Dialog.Content className="fixed top-1/2 left-1/2 z-50 w-[520px] -translate-1/2 rounded-sm border border-line bg-panel p-5">
          <Dialog.Title className="mb-1 text-[14px] font-semibold">Keyboard</Dialog.Title>
          <Dialog.Description className="mb-3 text-quiet">
            In the picture: click touches, drag moves it, the wheel zooms; with Shift held a stroke gathers objects into
            a matte, a click adds one or takes it out, and with Alt as well a box gathers what lies in it. A number is
            dragged, stepped with ↑ ↓ or typed: 0.5, 50%, 1/2, *1.5, /2, +=3; Enter gives the keys back to the page.
          </Dialog.Description>
          <dl className="grid grid-cols-[120px_1fr] gap-y-1.5">
            {KEYS.map(([key, does]) => (
              <div key={key} className="contents">
                <dt className="value pt-px text-verdigris">{key}</dt>
                <dd>{does}</dd>
              </div>
            ))}
          </dl>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
