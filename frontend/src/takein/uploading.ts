import * as tus from "tus-js-client";
import { answer, api, type ShotState } from "../api/client";

const PIECE = 16 * 1024 * 1024;
const endpoint = "/api/uploads";

export type Uploading = { name: string; files: number; done: number; sent: number; total: number };
type Watch = (state: Uploading) => void;

/** A file, and the folders it lay in where whole folders were dropped. */
export type Brought = { file: File; folder: string };

export const bare = (files: File[]): Brought[] => files.map((file) => ({ file, folder: "" }));

/** The files of a drop, those in dropped folders too. */
export async function filesOf(data: DataTransfer): Promise<Brought[]> {
  const entries = [...data.items].map((item) => item.webkitGetAsEntry()).filter((entry) => entry !== null);
  if (!entries.length) return bare([...data.files]);
  const found = (await Promise.all(entries.map(filesIn))).flat();
  const common = commonFolder(found.map((one) => one.folder));
  return found.map((one) => ({ ...one, folder: one.folder.slice(common.length).replace(/^\//, "") }));
}

/** The folders that all files lie in say nothing about them. */
function commonFolder(folders: string[]): string {
  const parts = (folders[0] ?? "").split("/");
  let common = "";
  for (const part of parts) {
    const next = common ? `${common}/${part}` : part;
    if (!folders.every((folder) => folder === next || folder.startsWith(`${next}/`))) break;
    common = next;
  }
  return common;
}

async function filesIn(entry: FileSystemEntry): Promise<Brought[]> {
  if (entry.isFile) {
    const file = await new Promise<File>((good, bad) => (entry as FileSystemFileEntry).file(good, bad));
    const folder = entry.fullPath.split("/").slice(1, -1).join("/");
    return file.name.startsWith(".") ? [] : [{ file, folder }];
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const found: FileSystemEntry[] = [];
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((good, bad) => reader.readEntries(good, bad));
    if (!some.length) break;
    found.push(...some);
  }
  return (await Promise.all(found.map(filesIn))).flat();
}

/**
 * Sends files one after the other as one batch and gives the batch's folder. A broken connection is gone on with, and
 * so is a batch that was left half-way: by this page, or by one that was closed.
 */
export async function upload(brought: Brought[], watch: Watch, stop: AbortSignal): Promise<string> {
  const begun = await Promise.all(brought.map(({ file }) => new tus.Upload(file, { endpoint }).findPreviousUploads()));
  const left = begun.flat().sort((a, b) => b.creationTime.localeCompare(a.creationTime))[0]?.metadata.batch;
  // two who drop files in the same second get a folder each
  const now = new Date().toISOString().slice(0, 19).replace(/[T:]/g, "-");
  const batch = left ?? `drop-${now}-${crypto.getRandomValues(new Uint32Array(1))[0]?.toString(36)}`;
  const total = brought.reduce((sum, { file }) => sum + file.size, 0);
  let before = 0;
  for (const [index, { file, folder }] of brought.entries()) {
    const told = { filename: file.name, batch, folder };
    const earlier = begun[index]?.find(({ metadata }) => metadata.batch === batch && metadata.folder === folder);
    await send(file, told, earlier, stop, (sent) =>
      watch({ name: file.name, files: brought.length, done: index, sent: before + sent, total }),
    );
    before += file.size;
  }
  await forget(batch);
  const roots = await answer(api.GET("/api/media", { params: { query: { path: "" } } }));
  return `${roots.uploads}/${batch}`;
}

/** A batch that is whole is never gone on with: the same files dropped again are a new one. */
async function forget(batch: string): Promise<void> {
  const all = await tus.defaultOptions.urlStorage?.findAllUploads();
  for (const one of all ?? [])
    if (one.metadata.batch === batch) await tus.defaultOptions.urlStorage?.removeUpload(one.urlStorageKey);
}

function send(
  file: File,
  metadata: Record<string, string>,
  earlier: tus.PreviousUpload | undefined,
  stop: AbortSignal,
  sent: (bytes: number) => void,
): Promise<void> {
  return new Promise((good, bad) => {
    const one = new tus.Upload(file, {
      endpoint,
      chunkSize: PIECE,
      retryDelays: [0, 500, 1500, 3000, 5000, 10000, 20000],
      metadata,
      onProgress: sent,
      onError: (error) => bad(new Error(`${file.name} could not be brought in: ${error.message.split(",")[0]}`)),
      onSuccess: () => good(),
    });
    stop.addEventListener("abort", () => {
      one.abort();
      bad(new DOMException("stopped", "AbortError"));
    });
    if (earlier) one.resumeFromPreviousUpload(earlier);
    one.start();
  });
}

/**
 * Makes a shot. The files of `apart` become a source each although their names belong together; what was put together in
 * `folder`, where the paths were listed, is taken in so.
 */
export const takeIn = (
  show: string,
  shot: string,
  paths: string[],
  apart: string[] = [],
  folder = "",
): Promise<ShotState> => answer(api.POST("/api/take-in", { body: { show, shot, paths, apart, folder } }));
