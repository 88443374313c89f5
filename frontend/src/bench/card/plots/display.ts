/** What of a linear value a display shows, going on above 1 and below 0; plots are drawn in it, so that shadows have room. */
export const shown = (x: number): number => {
  const size = Math.abs(x);
  return Math.sign(x) * (size <= 0.0031308 ? 12.92 * size : 1.055 * size ** (1 / 2.4) - 0.055);
};
/** The way back. */
export const linear = (y: number): number => {
  const size = Math.abs(y);
  return Math.sign(y) * (size <= 0.04045 ? size / 12.92 : ((size + 0.055) / 1.055) ** 2.4);
};
/** The code of a display's 255 at which a linear value is shown. */
export const byte = (value: number): number => Math.round(Math.min(1, Math.max(0, shown(value))) * 255);
