import { CircleAlert } from "lucide-react";
import type { Card } from "../../api/document";
import { Hint } from "../../controls/Button";
import { useCardFacts } from "../card/picture/useCardFacts";
import { usePops } from "../card/usePops";

/** A mark on a card that does not do what it is there for: a shadow that falls on nothing, a tuck that jumps. */
export function CardFinding({ card }: { card: Card }) {
  return card.picture?.kind === "shadow" ? <OfShadow card={card} /> : card.tuck?.length ? <OfTuck card={card} /> : null;
}

function OfShadow({ card }: { card: Card }) {
  const told = useCardFacts(card.id)?.shadow;
  const lost = card.enabled !== false && told && told.in_pass > 0 && told.falls === 0;
  return lost ? <Mark text="This shadow falls on nothing here; its panel says why." /> : null;
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
