/** The sign of the product: a disc entering shadow. */
export function Mark() {
  return (
    <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden="true">
      <circle cx="8" cy="8" r="7" fill="var(--color-text)" />
      <circle cx="11" cy="7.4" r="5.4" fill="var(--color-panel)" />
    </svg>
  );
}
