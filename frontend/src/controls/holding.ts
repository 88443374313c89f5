/** Whether a name holds what is searched; `*` stands for any letters. */
export function holding(search: string): (name: string) => boolean {
  const parts = search.toLowerCase().split("*").filter(Boolean);
  const pattern = new RegExp(parts.map((part) => part.replace(/[.*+?^${}()|[\]\\]/g, "\\$&")).join(".*"));
  return (name) => pattern.test(name.toLowerCase());
}
