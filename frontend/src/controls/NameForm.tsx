import { useState } from "react";
import { Button } from "./Button";

type Props = {
  label: string;
  placeholder: string;
  action: string;
  look?: "plain" | "primary";
  /** How wide the field is. */
  width: string;
  /** Whether the name was taken: then the field is empty again. */
  onName: (name: string) => Promise<boolean>;
};

/** A name for something new, and what makes it. */
export function NameForm({ label, placeholder, action, look, width, onName }: Props) {
  const [name, setName] = useState("");
  return (
    <form
      className="flex gap-2"
      onSubmit={async (event) => {
        event.preventDefault();
        if (await onName(name)) setName("");
      }}
    >
      <input
        aria-label={label}
        placeholder={placeholder}
        maxLength={120}
        className={`h-[26px] rounded-sm bg-control px-2 ${width}`}
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <Button look={look} type="submit" disabled={!name.trim()}>
        {action}
      </Button>
    </form>
  );
}
