import { sentence } from "../controls/sentence";
import type { Brought } from "./uploading";

const SIDE_CAR = /\.(json|txt|xml)$/i;

/** A file's or folder's name as a title. */
export const titled = (name: string): string => sentence(name).replaceAll("_", " ");

/** A name without the version in it, which may leave nothing. */
export const withoutVersion = (name: string): string => name.replace(/[._-]?v\d+/i, "").replace(/^[._-]+|[._-]+$/g, "");

/** What a shot of dropped files is called: after its pictures, without version, frame number and ending. */
export function nameOfFiles(files: Brought[]): string {
  const picture = files.find((one) => !SIDE_CAR.test(one.file.name)) ?? files[0];
  const stem = (picture?.file.name ?? "").replace(/\.\w+$/, "").replace(/[._-]-?\d+$/, "");
  return titled(withoutVersion(stem) || stem) || "Shot";
}
