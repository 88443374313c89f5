import { CircleAlert } from "lucide-react";
import { useEffect, useState } from "react";
import type { Card } from "../../api/document";
import { Hint } from "../../controls/Button";
import { useSpreadsWithSource } from "../card/DoubledLight";
import { useCardFacts } from "../card/picture/useCardFacts";
import { usePops } from "../card/usePops";
import { useSession } from "../session";

const REST_MS = 3000;

/** A mark on a card that does not do what it is there for: a shadow that falls on nothing, a tuck that jumps, light that shows twice. */
export function CardFinding({ card }: { card: Card }) {
  const spreads = useSpreadsWithSource(card);
  if (card.picture?.kind === "shadow") return <OfShadow card={card} />;
  if (card.tuck?.length) return <OfTuck card={card} />;
  return spreads ? <OfLight card={card} /> : null;
}

function OfLight({ card }: { card: Card }) {
  const behind = useCardFacts(card.id, useRested())?.doubled;
  return behind ? <Mark text={`Its light is in ${behind} already and shows twice; its panel takes it out.`} /> : null;
}

function OfShadow({ card }: { card: Card }) {
  // it takes some pictures to tell, so not before the work rests
  const told = useCardFacts(card.id, useRested())?.shadow;
  const lost = card.enabled !== false && told && told.in_pass > 0 && told.falls === 0;
  return lost ? <Mark text="This shadow falls on nothing here; its panel says why." /> : null;
}

/** Whether the shot has been as it is for a while. */
function useRested(): boolean {
  const revision = useSession((s) => s.saved?.revision);
  const [rested, setRested] = useState<number | undefined>();
  useEffect(() => {
    const timer = setTimeout(() => setRested(revision), REST_MS);
    return () => clearTimeout(timer);
  }, [revision]);
  return rested !== undefined && rested === revision;
}

function OfTuck({ card }: { card: Card }) {
  const [pop] = usePops(card);
  return pop ? <Mark text={`Its tuck jumps at ${pop.frame}; its panel proposes a clean frame.`} /> : null;
}

const Mark = ({ text }: { text: string }) => (
  <Hint text={text}>
    <span className="absolute top-1 left-1 rounded-full bg-ground/80 p-0.5 text-amber">
      <CircleAlert size={12} aria-label={text} />
    </span>
  </Hint>
);
