import * as tus from "tus-js-client";
import { answer, api, type ShotState } from "../api/client";

const PIECE = 16 * 1024 * 1024;

export type Uploading = { name: string; files: number; done: number; sent: number; total: number };
type Watch = (state: Uploading) => void;

/** The files of a drop, those in dropped folders too. */
export async function filesOf(data: DataTransfer): Promise<File[]> {
  const entries = [...data.items].map((item) => item.webkitGetAsEntry()).filter((entry) => entry !== null);
  if (!entries.length) return [...data.files];
  return (await Promise.all(entries.map(filesIn))).flat();
}

async function filesIn(entry: FileSystemEntry): Promise<File[]> {
  if (entry.isFile) {
    const file = await new Promise<File>((good, bad) => (entry as FileSystemFileEntry).file(good, bad));
    return file.name.startsWith(".") ? [] : [file];
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

/** Sends files one after the other as one batch; a broken connection is gone on with. Gives the batch's folder. */
export async function upload(files: File[], watch: Watch, stop: AbortSignal): Promise<string> {
  const batch = `drop-${new Date().toISOString().slice(0, 19).replace(/[T:]/g, "-")}`;
  const total = files.reduce((sum, file) => sum + file.size, 0);
  let before = 0;
  for (const [index, file] of files.entries()) {
    await send(file, batch, stop, (sent) =>
      watch({ name: file.name, files: files.length, done: index, sent: before + sent, total }),
    );
    before += file.size;
  }
  const roots = await answer(api.GET("/api/media", { params: { query: { path: "" } } }));
  return `${roots.folders.find((one) => one.name === "uploads")?.path}/${batch}`;
}

function send(file: File, batch: string, stop: AbortSignal, sent: (bytes: number) => void): Promise<void> {
  return new Promise((good, bad) => {
    const one = new tus.Upload(file, {
      endpoint: "/api/uploads",
      chunkSize: PIECE,
      retryDelays: [0, 500, 1500, 3000, 5000, 10000, 20000],
      metadata: { filename: file.name, batch },
      removeFingerprintOnSuccess: true,
      onProgress: sent,
      onError: (error) => bad(new Error(`${file.name} could not be brought in: ${error.message.split(",")[0]}`)),
      onSuccess: () => good(),
    });
    stop.addEventListener("abort", () => {
      one.abort();
      bad(new DOMException("stopped", "AbortError"));
    });
    one.start();
  });
}

/** Makes a shot; the files of `apart` become a source each although their names belong together. */
export const takeIn = (show: string, shot: string, paths: string[], apart: string[] = []): Promise<ShotState> =>
  answer(api.POST("/api/take-in", { body: { show, shot, paths, apart } }));
