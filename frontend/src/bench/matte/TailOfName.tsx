/** A name, or what stands before its last part; where there is too little room, its end is seen. */
export function TailOfName({ name, className = "" }: { name: string; className?: string }) {
  return (
    // what is cut off is the side where a line ends, which is the left one where it runs from right to left
    <span dir="rtl" className={`truncate text-left ${className}`} title={name}>
      <bdi dir="ltr">{name}</bdi>
    </span>
  );
}
