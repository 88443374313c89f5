import { toast } from "sonner";
import { answer, api } from "../../api/client";
import { listed } from "../../controls/listed";
import { report } from "../../controls/notices";
import { type Edit, nameOfMatte, useSession } from "../session";

/** Orders mattes to be written once for speed; how far that is stands with the renders. */
export async function bake(mattes: string[]): Promise<void> {
  const { shot } = useSession.getState();
  if (!shot || !mattes.length) return;
  try {
    await answer(
      api.POST("/api/shots/{shot_id}/bakes", {
        params: { path: { shot_id: shot.id } },
        body: { revision: shot.revision, mattes },
      }),
    );
    toast(`Baking ${listed(mattes.map(nameOfMatte))}: how far it is stands under Hand off.`);
  } catch (error) {
    report(error);
  }
}

/** A matte is pulled again from what it is made of. */
export async function letGo(id: string): Promise<void> {
  const { shot, edit } = useSession.getState();
  if (!shot) return;
  try {
    const found = await answer(
      api.GET("/api/shots/{shot_id}/unbaking", {
        params: { path: { shot_id: shot.id }, query: { revision: shot.revision, matte: id } },
      }),
    );
    await edit(found.edits as Edit[], `pull ${nameOfMatte(id)} again`);
  } catch (error) {
    report(error);
  }
}
