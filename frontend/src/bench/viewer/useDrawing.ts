import { useEffect, useState } from "react";
import { freshName } from "../freshName";
import { addMatte } from "../matte/adding";
import { useSession } from "../session";
import { documentOf } from "../shotParts";
import { asValues, type Point } from "./outlines";

const CLOSE = 8;

/** Draws a new shape point by point; a click on the first point or Enter closes it, Escape gives it up. */
export function useDrawing() {
  const [points, setPoints] = useState<Point[]>([]);
  const drawing = useSession((s) => s.picking?.what === "shape");

  useEffect(() => {
    if (!drawing) {
      setPoints((old) => (old.length ? [] : old));
      return;
    }
    const key = (event: KeyboardEvent) => {
      if (event.key === "Enter") finish(points);
      else if (event.key === "Escape") useSession.getState().set({ picking: null });
      else if (event.key === "Backspace") setPoints(points.slice(0, -1));
      else return;
      event.preventDefault();
      event.stopPropagation();
    };
    window.addEventListener("keydown", key, true);
    return () => window.removeEventListener("keydown", key, true);
  }, [drawing, points]);

  const add = (point: Point, zoom: number) => {
    const [first] = points;
    const closes = first && points.length > 2 && Math.hypot(point[0] - first[0], point[1] - first[1]) * zoom < CLOSE;
    if (closes) finish(points);
    else setPoints([...points, point]);
  };
  return { drawing, points, add };
}

async function finish(points: Point[]): Promise<void> {
  const { shot, set } = useSession.getState();
  if (!shot || points.length < 3) return;
  set({ picking: null });
  const id = freshName(Object.keys(documentOf(shot).mattes ?? {}), "fence");
  await addMatte({ id, kind: "shape", form: "polygon", points: asValues(points) }, `draw ${id}`);
}
