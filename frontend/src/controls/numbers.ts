const NUMBER = "[+-]?(?:\\d+\\.?\\d*|\\.\\d+)(?:e[+-]?\\d+)?";
const PLAIN = new RegExp(`^${NUMBER}$`, "i");
const PERCENT = new RegExp(`^(${NUMBER})%$`, "i");
const SUM = new RegExp(`^(${NUMBER})([*/+-])(${NUMBER})$`, "i");
const CHANGE = new RegExp(`^([*/]|\\+=|-=)(${NUMBER})$`, "i");

export const UNDERSTOOD = "a number, 50%, 1/2, *1.5, /2, +=3 or -=3";

function reckoned(a: number, sign: string, b: number): number {
  if (sign === "*") return a * b;
  if (sign === "/") return a / b;
  return sign.startsWith("+") ? a + b : a - b;
}

/**
 * What a typed text means as a number: plain, in percent (50% is 0.5), as a small sum (1/2), or as a change of the value
 * that is there (*1.5, /2, +=3, -=3). Null where it means none.
 */
export function numberFrom(text: string, now: number): number | null {
  const typed = text
    .replace(/\s|px|°/g, "")
    .replaceAll(",", ".")
    .replaceAll("×", "*");
  const value = meant(typed, now);
  return value !== null && Number.isFinite(value) ? value : null;
}

function meant(typed: string, now: number): number | null {
  if (PLAIN.test(typed)) return Number(typed);
  const percent = PERCENT.exec(typed);
  if (percent) return Number(percent[1]) / 100;
  const change = CHANGE.exec(typed);
  if (change) return reckoned(now, change[1] ?? "", Number(change[2]));
  const sum = SUM.exec(typed);
  return sum ? reckoned(Number(sum[1]), sum[2] ?? "", Number(sum[3])) : null;
}
