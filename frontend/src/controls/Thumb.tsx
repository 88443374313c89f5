import { ImageOff } from "lucide-react";
import { useEffect, useState } from "react";
import { sentence } from "./sentence";
import { fetchThumb, knownThumb } from "./thumbs";

type Props = { address: string; alt: string; className?: string; large?: boolean };

/** A small picture from the server; the last one stays until the new one is there. Why there is none is told, of a large one in it. */
export function Thumb({ address, alt, className = "", large = false }: Props) {
  const [shown, setShown] = useState(() => knownThumb(address));
  const [why, setWhy] = useState<string | null>(null);
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
    setWhy(null);
    return fetchThumb(address, give, setWhy);
  }, [address]);
  const named = alt ? { role: "img", "aria-label": alt } : { "aria-hidden": true };
  if (why !== null)
    return (
      <span
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
      <span className={`flex items-center justify-center bg-stage text-quiet ${className}`} aria-busy="true" {...named}>
        {large && "reading the file…"}
      </span>
    );
  return <img src={shown} alt={alt} draggable={false} className={className} />;
}
