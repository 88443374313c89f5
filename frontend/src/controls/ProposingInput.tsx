import { type InputHTMLAttributes, useId } from "react";

type Props = Omit<InputHTMLAttributes<HTMLInputElement>, "onChange" | "list"> & {
  value: string;
  choices: string[] | undefined;
  onChange: (text: string) => void;
};

/** A text that is typed, with what there is already proposed. */
export function ProposingInput({ choices = [], onChange, ...rest }: Props) {
  const list = useId();
  return (
    <>
      <input {...rest} list={choices.length ? list : undefined} onChange={(event) => onChange(event.target.value)} />
      <datalist id={list}>
        {choices.map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
    </>
  );
}
