import type { ReactNode } from "react";
import { Link } from "react-router";
import { PersonMenu } from "../people/PersonMenu";
import { Mark } from "./Mark";

/** What stands above every view: the way to all shots, then what the view puts there. */
export function TopBar({ children }: { children: ReactNode }) {
  return (
    <header className="flex h-10 shrink-0 items-center gap-3 border-b border-line bg-panel px-3">
      <Link to="/" aria-label="Umbrax: all shots" className="flex items-center gap-2.5">
        <Mark />
        <b className="text-[13px]">Umbrax</b>
      </Link>
      {children}
      <PersonMenu />
    </header>
  );
}
