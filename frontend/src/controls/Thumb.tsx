import { ImageOff } from "lucide-react";
import { useEffect, useState } from "react";
import { sentence } from "./sentence";
import { fetchThumb, knownThumb, useAskedAgain } from "./thumbs";
import { useInSight } from "./useInSight";

type Props = { address: string; alt: string; className?: string; large?: boolean };

/**
 * A small picture from the server, asked for while it is in sight; the last one stays until the new one is there. Why there is none is told,
 * of a large one in it.
 */
export function Thumb({ address, alt, className = "", large = false }: Props) {
  const [shown, setShown] = useState(() => knownThumb(address));
  const [why, setWhy] = useState<string | null>(null);
  const [place, inSight] = useInSight();
  const again = useAskedAgain();
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was broken may be whole when it is asked for again
  useEffect(() => {
    const give = (url: string) => {
      setShown(url);
      setWhy(null);
    };
    const known = knownThumb(address);
    if (known) {
      give(known);
      return;
    }
    if (!inSight) return;
    setWhy(null);
    return fetchThumb(address, give, setWhy);
  }, [address, inSight, again]);
  const named = alt ? { role: "img", "aria-label": alt } : { "aria-hidden": true };
  if (why !== null)
    return (
      <span
        ref={place}
        className={`flex flex-col items-center justify-center gap-2 bg-stage text-quiet ${className}`}
        title={sentence(why)}
        {...named}
      >
        <ImageOff size={large ? 20 : 13} aria-hidden="true" />
        {large && <span className="max-w-[60ch] text-center">{sentence(why)}</span>}
      </span>
    );
  if (!shown)
    return (
      <span
        ref={place}
        className={`flex items-center justify-center bg-stage text-quiet ${className}`}
        aria-busy="true"
        {...named}
      >
        {large && "reading the file…"}
      </span>
    );
  return <img ref={place} src={shown} alt={alt} draggable={false} className={className} />;
}
