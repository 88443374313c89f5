import { Button, ButtonLink } from "../controls/Button";
import { Terms } from "../takein/Terms";
import { NewShow } from "./NewShow";

type Props = { onDemo: () => Promise<boolean>; onShow: (name: string) => Promise<boolean> };

/** What somebody sees who has nothing yet: what to do first, and what the words mean. */
export const Nothing = ({ onDemo, onShow }: Props) => (
  <div className="mx-auto mt-10 max-w-2xl rounded-sm border border-line bg-panel p-8">
    <h2 className="mb-2 font-semibold text-[17px]">No shows yet</h2>
    <p className="mb-5 text-quiet">
      Drop a render anywhere on this page, take one in from a media folder, or look around in the demo first: three
      shots of an invented hilltop weather station, with everything that a render can bring.
    </p>
    <div className="mb-6 flex gap-2">
      <ButtonLink look="primary" to="/take-in">
        Take in a render
      </ButtonLink>
      <Button onClick={onDemo}>Bring in the demo</Button>
      <NewShow onName={onShow} look="ghost" />
    </div>
    <Terms />
  </div>
);
