import { Flame } from "lucide-react";
import type { Matte } from "../../api/document";
import { Button } from "../../controls/Button";
import { useContents } from "../useContents";
import { bake, letGo } from "./baking";

/** Whether a matte is read from where it was written for speed, and how to write it again or let that go. */
export function BakePart({ id, matte }: { id: string; matte: Matte }) {
  const baked = useContents()?.mattes.find((one) => one.id === id)?.baked;
  const current = baked === true;
  return (
    <section className="border-t border-line px-3 py-2" aria-label="Baked">
      <h3 className="heading mb-1">Speed</h3>
      <p className={`mb-1.5 text-[11.5px] ${matte.bake && !current ? "text-amber" : "text-quiet"}`}>
        {!matte.bake && "Pulled whenever it is wanted."}
        {matte.bake &&
          (current ? "Read from where it was baked." : "It changed since it was baked: pulled again here.")}
      </p>
      <div className="flex gap-1.5">
        {!current && (
          <Button className="px-2!" onClick={() => bake([id])}>
            <Flame size={12} /> {matte.bake ? "Bake it again" : "Bake it"}
          </Button>
        )}
        {matte.bake !== undefined && (
          <Button className="px-2!" onClick={() => letGo(id)}>
            Let the bake go
          </Button>
        )}
      </div>
    </section>
  );
}
