import type { Schemas } from "../api/client";
import { Thumb } from "../controls/Thumb";

/** The first frame of what was found. */
export function FoundThumb({ found }: { found: Schemas["FoundData"] }) {
  const query = new URLSearchParams({ path: found.path, key: found.key });
  return (
    <span className="block h-[45px] w-[80px] shrink-0 overflow-hidden rounded-[2px] bg-black">
      {found.problem === null && (
        <Thumb
          address={`/api/media/thumb?${query}`}
          alt={`First frame of ${found.name}`}
          className="size-full object-contain"
        />
      )}
    </span>
  );
}
