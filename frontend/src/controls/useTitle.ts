import { useEffect } from "react";

/** What the tab of the browser says: the nearest thing first, so that many tabs can be told apart. */
export function useTitle(...parts: (string | null | undefined)[]): void {
  const title = [...parts.filter(Boolean), "Umbrax"].join(" · ");
  useEffect(() => {
    document.title = title;
  }, [title]);
}
