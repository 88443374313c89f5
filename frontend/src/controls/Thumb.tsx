import { useEffect, useState } from "react";
import { fetchThumb, knownThumb } from "./thumbs";

type Props = { address: string; alt: string; className?: string };

/** A small picture from the server; the last one stays until the new one is there. */
export function Thumb({ address, alt, className = "" }: Props) {
  const [shown, setShown] = useState(() => knownThumb(address));
  useEffect(() => {
    const known = knownThumb(address);
    if (known) {
      setShown(known);
      return;
    }
    return fetchThumb(address, setShown);
  }, [address]);
  const named = alt ? { role: "img", "aria-label": alt } : { "aria-hidden": true };
  if (!shown) return <span className={`block bg-stage ${className}`} aria-busy="true" {...named} />;
  return <img src={shown} alt={alt} draggable={false} className={className} />;
}
