import { type Edit, useSession } from "../session";

type Item = { id: string; [key: string]: unknown };

/** Makes a matte as one step and opens it over the picture; `first` makes what is not there yet. Whether it was made. */
export async function addMatte(item: Item, command: string, first: Edit[] = []): Promise<boolean> {
  const { edit, set } = useSession.getState();
  if (!(await edit([...first, { op: "insert", path: ["mattes"], item }], command))) return false;
  set({ openMatte: item.id, lookingAt: { kind: "tint", name: item.id } });
  return true;
}
