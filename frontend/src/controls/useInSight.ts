import { type RefCallback, useCallback, useState } from "react";

/** Where to put what is watched, and whether any of it is in sight. */
export function useInSight(): [RefCallback<HTMLElement>, boolean] {
  const [inSight, setInSight] = useState(false);
  const place = useCallback((element: HTMLElement | null) => {
    if (!element) return;
    const watching = new IntersectionObserver((entries) => setInSight(entries.at(-1)?.isIntersecting ?? false));
    watching.observe(element);
    return () => watching.disconnect();
  }, []);
  return [place, inSight];
}
