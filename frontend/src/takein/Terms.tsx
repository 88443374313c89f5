const TERMS = [
  [
    "A source",
    "is one imported still, sequence or movie: a render with all its passes, or a filmed background (a plate).",
  ],
  ["A pass", "is one named picture inside a source: a light, the shadow, the depth, the IDs of its objects."],
  ["A matte", "says for every pixel how much of it belongs to something; it is pulled from passes and used by name."],
  ["A shot", "is one picture sequence that is built from sources, card by card; a show is the job it belongs to."],
] as const;

/** The four words that everything begins with, in a line each. */
export const Terms = () => (
  <dl className="grid grid-cols-[64px_1fr] gap-y-1.5">
    {TERMS.map(([term, means]) => (
      <div key={term} className="contents">
        <dt className="font-semibold text-text">{term}</dt>
        <dd>{means}</dd>
      </div>
    ))}
  </dl>
);
