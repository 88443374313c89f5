import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { Thumb } from "../controls/Thumb";

/** The first frame of what was found, asked for once it comes into sight: a folder may hold hundreds. */
export function FoundThumb({ found }: { found: Schemas["FoundData"] }) {
  const place = useRef<HTMLSpanElement>(null);
  const [seen, setSeen] = useState(false);
  useEffect(() => {
    if (!place.current || seen) return;
    const watching = new IntersectionObserver((entries) => {
      if (entries.some((entry) => entry.isIntersecting)) setSeen(true);
    });
    watching.observe(place.current);
    return () => watching.disconnect();
  }, [seen]);
  const query = new URLSearchParams({ path: found.path, key: found.key });
  return (
    <span ref={place} className="block h-[45px] w-[80px] shrink-0 overflow-hidden rounded-[2px] bg-black">
      {seen && found.problem === null && (
        <Thumb
          address={`/api/media/thumb?${query}`}
          alt={`First frame of ${found.name}`}
          className="size-full object-contain"
        />
      )}
    </span>
  );
}
