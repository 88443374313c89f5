import { useEffect, useState } from "react";

/** A value once it has stayed the same for a moment: small pictures wait until the hand rests. */
export function useResting<T>(value: T, ms = 180): T {
  const [resting, setResting] = useState(value);
  useEffect(() => {
    const wait = setTimeout(() => setResting(value), ms);
    return () => clearTimeout(wait);
  }, [value, ms]);
  return resting;
}
