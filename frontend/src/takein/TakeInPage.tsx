import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "../api/client";
import { report } from "../bench/session";
import { Button } from "../controls/Button";
import { Mark } from "../controls/Mark";
import { DropPlace } from "./DropPlace";
import { FolderList, useFolder } from "./FolderList";
import { FoundRow } from "./FoundRow";
import { Sending } from "./Sending";
import { type Brought, bare, takeIn, type Uploading, upload } from "./uploading";
import { useDrop } from "./useDrop";

const SIDE_CAR = /\.(json|txt|xml)$/i;
const titled = (name: string) => name.charAt(0).toUpperCase() + name.slice(1).replaceAll("_", " ");

/** Choosing pictures from the media folders, or dropping them: they become the sources of a new shot. */
export function TakeInPage() {
  const [path, setPath] = useState("");
  const [left, setLeft] = useState<Set<string>>(new Set());
  const [apart, setApart] = useState<Set<string>>(new Set());
  const [show, setShow] = useState<string | null>(null);
  const [shot, setShot] = useState<string | null>(null);
  const [working, setWorking] = useState(false);
  const [sending, setSending] = useState<Uploading | null>(null);
  const stopping = useRef(new AbortController());
  const navigate = useNavigate();
  const queries = useQueryClient();
  const query = useFolder(path);
  const found = query.data?.found ?? [];
  const chosen = found.filter((one) => !one.problem && !left.has(one.path));
  const folder = query.data?.way.at(-1)?.name ?? "";
  const showName = show ?? titled(query.data?.way.at(-2)?.name ?? folder);
  const shotName = shot ?? titled(folder);

  const open = (to: string) => {
    setPath(to);
    setLeft(new Set());
    setApart(new Set());
    setShow(null);
    setShot(null);
  };
  const finish = async (making: Promise<{ id: number }>) => {
    setWorking(true);
    try {
      const made = await making;
      queries.invalidateQueries({ queryKey: ["shows"] });
      navigate(`/shots/${made.id}/passes`);
    } catch (error) {
      if (!(error instanceof DOMException)) report(error);
    } finally {
      setWorking(false);
      setSending(null);
    }
  };
  const bring = async (files: Brought[]) => {
    if (!files.length) return;
    stopping.current = new AbortController();
    const picture = files.find((one) => !SIDE_CAR.test(one.file.name)) ?? files[0];
    const name = titled((picture?.file.name ?? "").replace(/[._-]?-?\d*\.\w+$/, "") || "Taken in");
    setSending({ name: files[0]?.file.name ?? "", files: files.length, done: 0, sent: 0, total: 1 });
    await finish(
      upload(files, setSending, stopping.current.signal).then((folder) =>
        takeIn(name, `${name} ${folder.slice(-8).replaceAll("-", ":")}`, [folder]),
      ),
    );
  };
  const { over, on } = useDrop(bring);

  return (
    <div className="flex h-full flex-col" {...on}>
      <header className="flex h-10 shrink-0 items-center gap-3 border-b border-line bg-panel px-3">
        <Link to="/" aria-label="Umbrax: all shots" className="flex items-center gap-2.5">
          <Mark />
          <b className="text-[13px]">Umbrax</b>
        </Link>
        <span className="text-quiet">Take in</span>
      </header>
      <div className="flex min-h-0 flex-1">
        <nav
          className="w-[260px] shrink-0 overflow-y-auto border-r border-line bg-panel p-3"
          aria-label="Media folders"
        >
          <FolderList folder={query.data} onOpen={open} />
          <DropPlace
            over={over}
            text="Drop files or a folder anywhere here: they are brought in, put together and examined."
            onFiles={(files) => bring(bare(files))}
          />
        </nav>
        <main className="flex min-w-0 flex-1 flex-col" aria-label="Pictures">
          <div className="min-h-0 flex-1 overflow-y-auto p-6">
            {sending && <Sending state={sending} onStop={() => stopping.current.abort()} />}
            {query.error && (
              <p role="alert" className="text-coral">
                {query.error.message}
              </p>
            )}
            {query.isPending && <p className="text-quiet">Looking into the folder…</p>}
            {!sending && query.data && found.length === 0 && (
              <p className="max-w-lg text-quiet">
                {path
                  ? "There are no pictures in this folder. Open another one on the left, or drop files."
                  : "Open a media folder on the left: its sequences and stills are listed here with what they hold."}
              </p>
            )}
            {found.map((one) => (
              <FoundRow
                key={one.path}
                found={one}
                chosen={!one.problem && !left.has(one.path)}
                apart={apart.has(one.path)}
                onChoose={(on) => setLeft((old) => toggled(old, one.path, !on))}
                onApart={(on) => setApart((old) => toggled(old, one.path, on))}
              />
            ))}
          </div>
          {found.length > 0 && (
            <footer className="flex shrink-0 items-center gap-3 border-t border-line bg-panel px-6 py-3">
              <NameField label="Show" value={showName} onChange={setShow} />
              <NameField label="Shot" value={shotName} onChange={setShot} />
              <span className="flex-1" />
              <span className="text-quiet">{summary(chosen)}</span>
              <Button
                look="primary"
                disabled={working || chosen.length === 0 || !showName.trim() || !shotName.trim()}
                onClick={() =>
                  finish(
                    takeIn(
                      showName,
                      shotName,
                      chosen.map((one) => one.path),
                      [...apart],
                    ),
                  )
                }
              >
                {working ? "Taking in…" : "Take in"}
              </Button>
            </footer>
          )}
        </main>
      </div>
    </div>
  );
}

function NameField({ label, value, onChange }: { label: string; value: string; onChange: (name: string) => void }) {
  return (
    <label className="flex items-center gap-2 text-quiet">
      {label}
      <input
        className="h-7 w-44 rounded-sm bg-control px-2 text-text"
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </label>
  );
}

function toggled(old: Set<string>, path: string, on: boolean): Set<string> {
  const next = new Set(old);
  if (on) next.add(path);
  else next.delete(path);
  return next;
}

function summary(chosen: Schemas["FoundData"][]): string {
  const frames = Math.max(0, ...chosen.map((one) => one.frames));
  const passes = chosen.reduce((sum, one) => sum + one.passes, 0);
  return `${chosen.length} ${chosen.length === 1 ? "source" : "sources"} · ${frames} ${frames === 1 ? "frame" : "frames"} · ${passes} passes`;
}
