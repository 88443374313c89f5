import { useQuery, useQueryClient } from "@tanstack/react-query";
import { FolderOpen, Plus, X } from "lucide-react";
import { useState } from "react";
import { answer, api, type Schemas } from "../api/client";
import { Button, IconButton } from "../controls/Button";
import { report, told } from "../controls/notices";
import { ProposingInput } from "../controls/ProposingInput";

/** What lies in one of the media folders; these themselves where the path is empty. */
export const useFolder = (path: string, enabled = true) =>
  useQuery({
    queryKey: ["media", path],
    queryFn: () => answer(api.GET("/api/media", { params: { query: { path } } })),
    placeholderData: (before) => before,
    enabled,
    retry: false,
  });

type Props = { folder: Schemas["Browsed"] | undefined; onOpen: (path: string) => void };

/** The way to a folder, and the folders in it; media folders are added and left out here. */
export function FolderList({ folder, onOpen }: Props) {
  const queries = useQueryClient();
  const top = folder !== undefined && folder.path === "";
  const remove = async (path: string) => {
    try {
      await answer(api.POST("/api/media/folders/remove", { body: { path } }));
      await queries.invalidateQueries({ queryKey: ["media"] });
      told(`Left ${path} out of the media folders; nothing in it was touched`);
    } catch (error) {
      report(error);
    }
  };
  return (
    <>
      <button type="button" className="heading mb-2 block hover:text-text" onClick={() => onOpen("")}>
        Media folders
      </button>
      <Way way={folder?.way ?? []} onOpen={onOpen} />
      {folder?.folders.map((one) => (
        <div key={one.path} className="group flex items-center rounded-sm hover:bg-control">
          <button
            type="button"
            onClick={() => onOpen(one.path)}
            title={one.path}
            className="flex h-7 min-w-0 flex-1 items-center gap-2 px-2 text-left"
          >
            <FolderOpen size={13} className="shrink-0 text-quiet" />
            <span className="truncate">{one.name}</span>
          </button>
          {one.added && (
            <IconButton
              label={`Leave ${one.name} out of the media folders`}
              look="ghost"
              className="h-[22px]! w-[22px]! opacity-0 focus-visible:opacity-100 group-hover:opacity-100"
              onClick={() => remove(one.path)}
            >
              <X size={12} />
            </IconButton>
          )}
        </div>
      ))}
      {top && <AddFolder onAdded={onOpen} />}
    </>
  );
}

/** A folder of this computer becomes a media folder: typed, with what there is proposed. */
function AddFolder({ onAdded }: { onAdded: (path: string) => void }) {
  const queries = useQueryClient();
  const [text, setText] = useState<string | null>(null);
  const typed = text ?? "";
  const suggested = useQuery({
    queryKey: ["suggested folders", typed],
    queryFn: () => answer(api.GET("/api/media/suggested", { params: { query: { path: typed || "/" } } })),
    enabled: text !== null,
    placeholderData: (before) => before,
  });
  const add = async () => {
    try {
      const added = await answer(api.POST("/api/media/folders", { body: { path: typed } }));
      setText(null);
      await queries.invalidateQueries({ queryKey: ["media"] });
      onAdded(added.path);
    } catch (error) {
      report(error);
    }
  };
  if (text === null)
    return (
      <Button look="ghost" className="mt-1 px-2! text-[11.5px]" onClick={() => setText("")}>
        <Plus size={12} /> Add a media folder…
      </Button>
    );
  return (
    <form
      className="mt-2 flex flex-col gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        add();
      }}
    >
      <ProposingInput
        aria-label="Path of the folder"
        placeholder="/jobs/ridge/renders"
        autoFocus
        choices={suggested.data?.folders}
        value={typed}
        onChange={setText}
        onKeyDown={(event) => {
          if (event.key !== "Escape") return;
          event.stopPropagation();
          setText(null);
        }}
        className="value h-7 rounded-sm bg-control px-2"
      />
      <div className="flex gap-1.5">
        <Button type="submit" disabled={!typed.trim()}>
          Add
        </Button>
        <Button look="ghost" onClick={() => setText(null)}>
          Cancel
        </Button>
      </div>
    </form>
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
