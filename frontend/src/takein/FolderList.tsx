import { useQuery } from "@tanstack/react-query";
import { FolderOpen } from "lucide-react";
import { answer, api, type Schemas } from "../api/client";

/** What lies in one of the media folders; these themselves where the path is empty. */
export const useFolder = (path: string) =>
  useQuery({
    queryKey: ["media", path],
    queryFn: () => answer(api.GET("/api/media", { params: { query: { path } } })),
    placeholderData: (before) => before,
  });

type Props = { folder: Schemas["Browsed"] | undefined; onOpen: (path: string) => void };

/** The way to a folder, and the folders in it. */
export function FolderList({ folder, onOpen }: Props) {
  return (
    <>
      <button type="button" className="heading mb-2 hover:text-text" onClick={() => onOpen("")}>
        Media folders
      </button>
      <Way way={folder?.way ?? []} onOpen={onOpen} />
      {folder?.folders.map((one) => (
        <button
          key={one.path}
          type="button"
          onClick={() => onOpen(one.path)}
          className="flex h-7 w-full items-center gap-2 rounded-sm px-2 text-left hover:bg-control"
        >
          <FolderOpen size={13} className="text-quiet" />
          <span className="truncate">{one.name}</span>
        </button>
      ))}
    </>
  );
}

function Way({ way, onOpen }: { way: Schemas["FolderData"][]; onOpen: (path: string) => void }) {
  if (!way.length) return null;
  return (
    <p className="mb-2 flex flex-wrap gap-1 text-quiet">
      {way.map((one, index) => (
        <button
          key={one.path}
          type="button"
          onClick={() => onOpen(one.path)}
          className={index === way.length - 1 ? "font-semibold text-text" : "hover:text-text"}
        >
          {one.name}
          {index < way.length - 1 && <span className="pl-1 text-faint">/</span>}
        </button>
      ))}
    </p>
  );
}
