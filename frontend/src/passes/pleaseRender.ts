import type { Finding } from "./useCheckup";

const framesOf = (finding: Finding): string => {
  const frames = finding.frames.filter((frame) => frame !== 0);
  if (!frames.length) return "";
  return frames.length === 1 ? ` (frame ${frames[0]})` : ` (frames ${frames[0]}-${frames.at(-1)})`;
};

/** Findings that only a new render can end. */
export const toRender = (findings: Finding[]): Finding[] =>
  findings.filter((one) => one.severity !== "note" && !one.remedy);

/** A list for whoever renders, in plain text. */
export function pleaseRender(show: string, shot: string, findings: Finding[]): string {
  const lines = toRender(findings).map((one) => {
    const where = [one.source, one.pass].filter(Boolean).join(", ");
    return `- ${where}${framesOf(one)}: ${one.message}`;
  });
  return [`Please render: ${show}, ${shot}`, ...lines, ""].join("\n");
}

/** Gives the list to the browser as a text file. */
export function downloadList(name: string, text: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type: "text/plain" }));
  link.download = `please-render ${name}.txt`;
  link.click();
  URL.revokeObjectURL(link.href);
}
