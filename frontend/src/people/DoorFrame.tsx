import type { FormEvent, ReactNode } from "react";
import { Button } from "../controls/Button";
import { Mark } from "../controls/Mark";
import { sentence } from "../controls/sentence";

type Props = {
  title: string;
  told?: ReactNode;
  problem: string | null;
  action: string;
  ready: boolean;
  onAction: () => void;
  over?: boolean;
  children: ReactNode;
};

const FIELD = "h-8 w-full rounded-sm bg-control px-2.5";

/** What stands at the door: a few fields and one thing to do with them. */
export function DoorFrame({ title, told, problem, action, ready, onAction, over, children }: Props) {
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (ready) onAction();
  };
  return (
    <main
      aria-label={title}
      className={`fixed inset-0 z-50 grid place-items-center ${over ? "bg-black/70" : "bg-ground"}`}
    >
      <form onSubmit={submit} className="w-[340px] rounded-sm border border-line bg-panel p-6">
        <p className="mb-5 flex items-center gap-2.5">
          <Mark />
          <b className="text-[13px]">Umbrax</b>
        </p>
        <h1 className="mb-1 font-semibold text-[17px]">{title}</h1>
        {told && <p className="mb-4 text-quiet">{told}</p>}
        <div className="flex flex-col gap-3">{children}</div>
        <p role="alert" className={`min-h-[17px] pt-3 text-coral ${problem ? "" : "invisible"}`}>
          {problem && `${sentence(problem)}.`}
        </p>
        <div className="mt-3 flex justify-end">
          <Button look="primary" type="submit" disabled={!ready}>
            {action}
          </Button>
        </div>
      </form>
    </main>
  );
}

type FieldProps = {
  label: string;
  value: string;
  onValue: (value: string) => void;
  kind?: "text" | "password";
  complete: string;
  first?: boolean;
};

export const DoorField = ({ label, value, onValue, kind = "text", complete, first }: FieldProps) => (
  <label className="flex flex-col gap-1">
    <span className="heading">{label}</span>
    <input
      className={FIELD}
      type={kind}
      value={value}
      autoComplete={complete}
      // biome-ignore lint/a11y/noAutofocus: nothing else can be done here
      autoFocus={first}
      maxLength={200}
      onChange={(event) => onValue(event.target.value)}
    />
  </label>
);
