/** `3 minutes ago`, for lists. */
export function ago(stamp: string, now = Date.now()): string {
  const seconds = Math.max(0, (now - Date.parse(stamp)) / 1000);
  const steps: [number, string][] = [
    [60, "second"],
    [60, "minute"],
    [24, "hour"],
    [365, "day"],
  ];
  let amount = seconds;
  for (const [size, name] of steps) {
    if (amount < size) {
      const whole = Math.floor(amount);
      return name === "second" && whole < 10 ? "just now" : `${whole} ${name}${whole === 1 ? "" : "s"} ago`;
    }
    amount /= size;
  }
  return "over a year ago";
}

/** `3 min`, for what is still to come. */
export function lasting(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`;
  return `${(seconds / 3600).toFixed(1)} h`;
}

export const megabytes = (bytes: number): string =>
  bytes < 1e6 ? `${Math.round(bytes / 1e3)} kB` : `${(bytes / 1e6).toFixed(1)} MB`;

/** `1001–1048`, or the one frame; what has no frames is a still. */
export function frameSpan(first: number | null | undefined, last: number | null | undefined): string {
  if (first == null) return "still";
  return first === last ? `${first}` : `${first}–${last}`;
}
