import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import { Button } from "../controls/Button";
import { counted } from "../controls/counted";
import { report } from "../controls/notices";
import { ProposingInput } from "../controls/ProposingInput";
import { TopBar } from "../controls/TopBar";
import { useTitle } from "../controls/useTitle";
import { useShows } from "../shots/useShows";
import { DropPlace } from "./DropPlace";
import { useDropHere } from "./dropping";
import { FolderList, useFolder } from "./FolderList";
import { FoundRow } from "./FoundRow";
import { nameOfFiles, titled, withoutVersion } from "./naming";
import { Sending } from "./Sending";
import { Terms } from "./Terms";
import { bare, takeIn } from "./uploading";
import { useBringing } from "./useBringing";

/** Choosing pictures from the media folders, or dropping them: they become the sources of a new shot. */
export function TakeInPage() {
  const [path, setPath] = useState("");
  const [ticked, setTicked] = useState<Map<string, boolean>>(new Map());
  const [apart, setApart] = useState<Set<string>>(new Set());
  const [show, setShow] = useState<string | null>(null);
  const [shot, setShot] = useState<string | null>(null);
  const [working, setWorking] = useState(false);
  const [wanted] = useSearchParams();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const query = useFolder(path);
  const found = query.data?.found ?? [];
  // of several versions the newest is meant, until somebody says otherwise
  const isChosen = (one: Schemas["FoundData"]) => !one.problem && (ticked.get(one.path) ?? !one.older);
  const chosen = found.filter(isChosen);
  const folder = query.data?.way.at(-1)?.name ?? "";
  const showName = show ?? wanted.get("show") ?? titled(query.data?.way.at(-2)?.name ?? folder);
  // a folder that is called by a version says nothing
  const shotName = shot ?? titled(withoutVersion(folder) || withoutVersion(found[0]?.name ?? "") || folder);

  const open = (to: string) => {
    setPath(to);
    setTicked(new Map());
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
      report(error);
    } finally {
      setWorking(false);
    }
  };
  const shows = useShows().data?.shows;
  const { sending, bring, stop } = useBringing(async (folder, files) => {
    const joined = wanted.get("show");
    // a show that is open has it, and where there is none yet nothing has to be asked
    if (joined || shows?.length === 0) {
      await finish(takeIn(joined ?? nameOfFiles(files), "", [folder]));
      return;
    }
    setShot(nameOfFiles(files));
    if (show === null) setShow(shows?.[0]?.name ?? nameOfFiles(files));
    setTicked(new Map());
    setApart(new Set());
    setPath(folder);
  });
  useDropHere("Take in as a new shot", bring);
  useTitle("Take in");

  return (
    <div className="flex h-full flex-col">
      <TopBar>
        <span className="text-quiet">Take in</span>
      </TopBar>
      <div className="flex min-h-0 flex-1">
        <nav
          className="w-[260px] shrink-0 overflow-y-auto border-r border-line bg-panel p-3"
          aria-label="Media folders"
        >
          <FolderList folder={query.data} onOpen={open} />
          <DropPlace
            text="Drop files or a folder anywhere here: they are brought in, put together and examined."
            onFiles={(files) => bring(bare(files))}
          />
        </nav>
        <main className="flex min-w-0 flex-1 flex-col" aria-label="Pictures">
          <div className="min-h-0 flex-1 overflow-y-auto p-6">
            {sending && <Sending state={sending} onStop={stop} />}
            {query.error && (
              <p role="alert" className="text-coral">
                {query.error.message}
              </p>
            )}
            {query.isPending && <p className="text-quiet">Looking into the folder…</p>}
            {!sending && query.data && found.length === 0 && (
              <div className="max-w-lg text-quiet">
                <p className="mb-3">
                  {path
                    ? "There are no pictures in this folder. Open another one on the left, or drop files."
                    : "Open a media folder on the left: its sequences and stills are listed here with what they hold. Or drop files from your computer anywhere on this page."}
                </p>
                <Terms />
              </div>
            )}
            {found.map((one) => (
              <FoundRow
                key={one.path}
                found={one}
                chosen={isChosen(one)}
                apart={apart.has(one.path)}
                onChoose={(on) => setTicked((old) => new Map(old).set(one.path, on))}
                onApart={(on) => setApart((old) => toggled(old, one.path, on))}
              />
            ))}
          </div>
          {found.length > 0 && (
            <footer className="flex shrink-0 items-center gap-3 border-t border-line bg-panel px-6 py-3">
              <NameField label="Show" value={showName} onChange={setShow} choices={shows?.map((one) => one.name)} />
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
                      query.data?.path,
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

type NameProps = { label: string; value: string; choices?: string[]; onChange: (name: string) => void };

const NameField = ({ label, value, choices, onChange }: NameProps) => (
  <label className="flex items-center gap-2 text-quiet">
    {label}
    <ProposingInput
      className="h-7 w-44 rounded-sm bg-control px-2 text-text"
      choices={choices}
      value={value}
      onChange={onChange}
    />
  </label>
);

function toggled(old: Set<string>, path: string, on: boolean): Set<string> {
  const next = new Set(old);
  if (on) next.add(path);
  else next.delete(path);
  return next;
}

function summary(chosen: Schemas["FoundData"][]): string {
  const frames = Math.max(0, ...chosen.map((one) => one.frames));
  const passes = chosen.reduce((sum, one) => sum + one.passes, 0);
  return `${counted(chosen.length, "source")} · ${counted(frames, "frame")} · ${counted(passes, "pass")}`;
}
