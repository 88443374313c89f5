import { Upload } from "lucide-react";
import { useRef } from "react";
import { Button } from "../controls/Button";

type Props = { text: string; onFiles: (files: File[]) => void };

/** Where files are dropped, or chosen from this computer. */
export function DropPlace({ text, onFiles }: Props) {
  const picker = useRef<HTMLInputElement>(null);
  return (
    <div className="mt-4 rounded-sm border border-line border-dashed p-4 text-center text-quiet">
      <Upload size={18} className="mx-auto mb-2" />
      {text}
      <input
        ref={picker}
        type="file"
        multiple
        className="hidden"
        aria-label="Files to bring in"
        onChange={(event) => onFiles([...(event.target.files ?? [])])}
      />
      <Button className="mt-3 flex! mx-auto" onClick={() => picker.current?.click()}>
        Choose files…
      </Button>
    </div>
  );
}
