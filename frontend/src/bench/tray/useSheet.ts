import { useQuery } from "@tanstack/react-query";
import type { CSSProperties } from "react";
import { type Contents, patiently } from "../../api/client";
import { useSession } from "../session";
import { useContents } from "../useContents";

type Part = "passes" | "mattes";
type Sheet = { url: string; columns: number; rows: number; places: Map<string, number> };

/** What a pass or an ID layer is called on the sheet of passes. */
export const tileName = (source: string, name: string): string => `${source}\n${name}`;

/** The order in which the server puts the tiles of these contents. */
function placesOf(contents: Contents, part: Part): Map<string, number> {
  const names =
    part === "mattes"
      ? contents.mattes.map((one) => one.id)
      : contents.sources.flatMap((source) =>
          [...source.passes, ...source.ids].map((one) => tileName(source.name, one.name)),
        );
  return new Map(names.map((name, index) => [name, index]));
}

/** All passes, or all mattes, of the frame as one picture; fetched again only when they changed. Tiles are asked for by name. */
export function useSheet(part: Part): { tile: (name: string) => CSSProperties; ready: boolean } {
  const shotId = useSession((s) => s.shotId);
  const contents = useContents();
  const key = contents?.sheets[part];
  const query = useQuery({
    queryKey: ["sheet", shotId, part, key],
    queryFn: async ({ signal }): Promise<Sheet> => {
      const { revision, frame } = contents as Contents;
      const order = new URLSearchParams({ revision: String(revision), frame: String(frame), part, key: String(key) });
      const response = await patiently(`/api/shots/${shotId}/sheet?${order}`, { signal });
      if (!response.ok) throw new Error("the contact sheet could not be made");
      const number = (name: string) => Number(response.headers.get(name) ?? 1);
      return {
        url: URL.createObjectURL(await response.blob()),
        columns: number("X-Columns"),
        rows: number("X-Rows"),
        places: placesOf(contents as Contents, part),
      };
    },
    enabled: key !== undefined,
    placeholderData: (before) => before,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return { tile: (name) => placed(query.data, name), ready: query.data !== undefined };
}

function placed(sheet: Sheet | undefined, name: string): CSSProperties {
  const index = sheet?.places.get(name);
  if (!sheet || index === undefined) return {};
  const { url, columns, rows } = sheet;
  const part = (at: number, of: number) => `${of > 1 ? (at / (of - 1)) * 100 : 0}%`;
  return {
    backgroundImage: `url(${url})`,
    backgroundSize: `${columns * 100}% ${rows * 100}%`,
    backgroundPosition: `${part(index % columns, columns)} ${part(Math.floor(index / columns), rows)}`,
  };
}
