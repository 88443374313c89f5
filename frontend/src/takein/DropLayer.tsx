import { Upload } from "lucide-react";
import { useEffect } from "react";
import { report } from "../controls/notices";
import { useDropping } from "./dropping";
import { filesOf } from "./uploading";

const holdsFiles = (event: DragEvent): boolean => event.dataTransfer?.types.includes("Files") ?? false;

/** Whatever page is open: dropped files are taken in or refused in words, and never take the browser elsewhere. */
export function DropLayer() {
  const over = useDropping((s) => s.over);
  const text = useDropping((s) => s.targets.at(-1)?.text);
  useEffect(() => {
    const show = (on: boolean) => useDropping.getState().over !== on && useDropping.setState({ over: on });
    const hover = (event: DragEvent) => {
      event.preventDefault();
      if (holdsFiles(event)) show(true);
    };
    const leave = (event: DragEvent) => event.relatedTarget === null && show(false);
    const drop = async (event: DragEvent) => {
      event.preventDefault();
      show(false);
      if (!event.dataTransfer) return;
      const target = useDropping.getState().targets.at(-1);
      const onto = event.target instanceof Element ? event.target : null;
      const files = holdsFiles(event) ? await filesOf(event.dataTransfer) : [];
      if (!files.length) report(new Error("there is no file in what was dropped; drop pictures, movies or folders"));
      else if (target) target.bring(files, onto);
      else report(new Error("nothing can be taken in here; drop it on the shots, or on a shot's bench"));
    };
    const ways = { dragenter: hover, dragover: hover, dragleave: leave, drop } as const;
    for (const [name, act] of Object.entries(ways)) window.addEventListener(name, act as EventListener);
    return () => {
      for (const [name, act] of Object.entries(ways)) window.removeEventListener(name, act as EventListener);
    };
  }, []);
  if (!over) return null;
  return (
    <div className="pointer-events-none fixed inset-2 z-[70] flex items-end justify-center rounded-sm border-2 border-verdigris border-dashed pb-10">
      <p className="flex items-center gap-2.5 rounded-sm border border-verdigris bg-panel px-4 py-2.5 text-[14px]">
        <Upload size={16} className="text-verdigris" />
        {text ?? "Nothing can be taken in here."}
      </p>
    </div>
  );
}
