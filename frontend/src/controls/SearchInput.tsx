import type { ComponentProps } from "react";

type Props = Omit<ComponentProps<"input">, "type" | "onChange"> & { label: string; onSearch: (text: string) => void };

/** Where one types what is searched. */
export function SearchInput({ label, onSearch, className = "", ...rest }: Props) {
  return (
    <input
      type="search"
      aria-label={label}
      onChange={(event) => onSearch(event.target.value)}
      className={`rounded-sm bg-control px-2 ${className}`}
      {...rest}
    />
  );
}
