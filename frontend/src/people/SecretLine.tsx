import { Button } from "../controls/Button";
import { told } from "../controls/notices";

/** Something that is told once: to be read, chosen whole by a click, and copied. */
export const SecretLine = ({ label, told: words, secret }: { label: string; told: string; secret: string }) => (
  <div className="mb-3 rounded-sm border border-verdigris/50 p-3" role="status">
    <p className="mb-2">{words}</p>
    <div className="flex gap-2">
      <input
        aria-label={label}
        readOnly
        value={secret}
        onFocus={(event) => event.target.select()}
        className="value h-[26px] min-w-0 flex-1 rounded-sm bg-control px-2"
      />
      <Button
        onClick={async () => {
          await navigator.clipboard.writeText(secret);
          told("Copied");
        }}
      >
        Copy
      </Button>
    </div>
  </div>
);
