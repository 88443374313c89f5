import { Plus } from "lucide-react";
import { useEffect, useState } from "react";
import { bakesOf, sourcesOf } from "../api/document";
import { Header } from "../bench/Header";
import { useSession } from "../bench/session";
import { documentOf } from "../bench/shotParts";
import { tileName, useSheet } from "../bench/tray/useSheet";
import { useContents } from "../bench/useContents";
import { LostShot, useShot } from "../bench/useShot";
import { Button } from "../controls/Button";
import { counted } from "../controls/counted";
import { SearchInput } from "../controls/SearchInput";
import { useTitle } from "../controls/useTitle";
import { NoSources } from "../sources/SourceMenu";
import { useShotDrop } from "../sources/useShotDrop";
import { BigLook } from "./BigLook";
import { FindingsPanel } from "./FindingsPanel";
import { entriesOf, groupsOf, type PassEntry, sameAs } from "./groups";
import { PassTile } from "./PassTile";
import { SeveralBar } from "./SeveralBar";
import { SourceList } from "./SourceList";
import { passesOf, useFindings, worstOf } from "./useCheckup";

/** All passes of a shot's sources as one contact sheet by kind, and what the check-up says of them. */
export function PassesPage() {
  const problem = useShot();
  const shot = useSession((s) => s.shot);
  const frame = useSession((s) => s.frame);
  const contents = useContents();
  const { tile } = useSheet("passes");
  const findings = useFindings();
  const [search, setSearch] = useState("");
  const [looked, setLooked] = useState<PassEntry | null>(null);
  const [showing, setShowing] = useState<string | undefined>(undefined);
  const [picked, setPicked] = useState<PassEntry[]>([]);
  const { add, dialogs } = useShotDrop();
  useTitle("Passes", shot?.name);
  const all = entriesOf(contents?.sources ?? [], shot ? documentOf(shot).format : { width: 0, height: 0 });
  const open = looked && all.find(sameAs(looked));
  const gone = looked !== null && contents !== undefined && !open;
  useEffect(() => {
    if (gone) setLooked(null);
  }, [gone]);
  if (problem) return <LostShot problem={problem} />;
  const groups = groupsOf(all, search);
  const shown = groups.flatMap((group) => group.passes);
  const chosen = all.filter((one) => picked.some(sameAs(one)));
  return (
    <div className="flex h-full flex-col">
      <Header place="passes" />
      <div className="flex min-h-0 flex-1">
        <main className="min-w-0 flex-1 overflow-y-auto px-6 py-4" aria-label="Passes">
          <div className="mb-3 flex items-center gap-4">
            <h2 className="text-[15px] font-semibold">Passes</h2>
            <span className="text-quiet">{contents ? summary(contents.sources) : "reading the files…"}</span>
            <span className="flex-1" />
            <Button onClick={add}>
              <Plus size={13} /> Add a source…
            </Button>
            <SearchInput
              label="Search passes"
              placeholder="search passes"
              value={search}
              onSearch={setSearch}
              className="h-7 w-52"
            />
          </div>
          <SourceList
            sources={(contents?.sources ?? []).filter((one) => !shot || !bakesOf(documentOf(shot)).has(one.name))}
          />
          {groups.map((group) => (
            <section key={group.title} className="mb-5" aria-label={group.title}>
              <h3 className="heading mb-2">
                {group.title} <span className="font-normal">{group.passes.length}</span>
              </h3>
              <div className="grid grid-cols-[repeat(auto-fill,minmax(168px,1fr))] gap-3">
                {group.passes.map((pass) => (
                  <PassTile
                    key={`${pass.source} ${pass.name}`}
                    pass={pass}
                    named={(contents?.sources.length ?? 0) > 1}
                    picture={tile(tileName(pass.source, pass.name))}
                    finding={worstOf(findings, pass.source, pass.name)}
                    chosen={chosen.includes(pass)}
                    onChoose={(on) => setPicked(on ? [...chosen, pass] : chosen.filter((one) => one !== pass))}
                    onLook={() => {
                      setShowing(undefined);
                      setLooked(pass);
                    }}
                  />
                ))}
              </div>
            </section>
          ))}
          {contents && groups.length === 0 && contents.sources.length > 0 && (
            <p className="text-quiet">
              {search ? `No pass is called ${search}.` : "The sources of this shot hold no passes."}
            </p>
          )}
          {contents?.sources.length === 0 && (
            <div className="max-w-lg">
              <NoSources onAdd={add} />
            </div>
          )}
        </main>
        <FindingsPanel
          onLook={(finding, where) => {
            const pass = all.find((p) => p.source === finding.source && passesOf(finding).includes(p.name));
            if (!pass) return;
            const offset = (shot && sourcesOf(shot.document)[finding.source]?.offset) ?? 0;
            const frames = finding.frames.filter((one) => one !== 0).map((one) => one + offset);
            if (where && frames[0] !== undefined && !frames.includes(frame))
              useSession.getState().set({ frame: frames[0] });
            setShowing(where ? finding.rule : undefined);
            setLooked(pass);
          }}
        />
      </div>
      {chosen.length > 0 && <SeveralBar chosen={chosen} onClear={() => setPicked([])} />}
      {shot && open && (
        <BigLook
          looked={open}
          all={shown.includes(open) ? shown : all}
          findings={findings}
          showing={showing}
          onLook={setLooked}
        />
      )}
      {dialogs}
    </div>
  );
}

function summary(sources: { passes: unknown[]; ids: unknown[]; frames: number }[]): string {
  const passes = sources.reduce((sum, one) => sum + one.passes.length + one.ids.length, 0);
  const frames = Math.max(0, ...sources.map((one) => one.frames));
  return `${counted(sources.length, "source")} · ${counted(frames, "frame")} · ${counted(passes, "pass")}`;
}
