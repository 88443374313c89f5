import { told } from "../controls/notices";
import { onceChanged } from "./onceChanged";
import { useSession } from "./session";

/** Says what was just done to the shot, with the way back for as long as nothing else was done to it. */
export function toldStep(message: string): void {
  onceChanged(
    useSession,
    told(message, () => useSession.getState().travel("undo")),
  );
}
