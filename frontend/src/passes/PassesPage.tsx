import { useState } from "react";
import { useShot } from "../bench/BenchPage";
import { Header } from "../bench/Header";
import { documentOf, useSession } from "../bench/session";
import { useSheet } from "../bench/tray/useSheet";
import { useContents } from "../bench/useContents";
import { BigLook, type Looked } from "./BigLook";
import { FindingsPanel } from "./FindingsPanel";
import { groupsOf } from "./groups";
import { PassTile } from "./PassTile";
import { useFindings, worstOf } from "./useCheckup";
import { NewerVersion } from "./VersionDialog";

/** All passes of a shot's sources as one contact sheet by kind, and what the check-up says of them. */
export function PassesPage() {
  const problem = useShot();
  const shot = useSession((s) => s.shot);
  const contents = useContents();
  const { tile } = useSheet("passes");
  const findings = useFindings();
  const [search, setSearch] = useState("");
  const [looked, setLooked] = useState<Looked | null>(null);
  if (problem) return <p className="p-8 text-coral">{problem}</p>;
  const groups = groupsOf(contents?.sources ?? [], search, shot ? documentOf(shot).format : { width: 0, height: 0 });
  return (
    <div className="flex h-full flex-col">
      <Header place="passes" />
      <div className="flex min-h-0 flex-1">
        <main className="min-w-0 flex-1 overflow-y-auto px-6 py-4" aria-label="Passes">
          <div className="mb-3 flex items-center gap-4">
            <h2 className="text-[15px] font-semibold">Passes</h2>
            <span className="text-quiet">{contents ? summary(contents.sources) : "reading the files…"}</span>
            {contents?.sources.map((source) => (
              <NewerVersion key={source.name} source={source.name} />
            ))}
            <span className="flex-1" />
            <input
              type="search"
              placeholder="search passes"
              aria-label="Search passes"
              value={search}
              onChange={(event) => setSearch(event.target.value)}
              className="h-7 w-52 rounded-sm bg-control px-2"
            />
          </div>
          {contents?.sources
            .filter((source) => source.problem)
            .map((source) => (
              <p key={source.name} role="alert" className="mb-3 rounded-sm border border-coral/50 p-3 text-coral">
                {source.name}: {source.problem}
              </p>
            ))}
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
                    picture={tile(pass.index)}
                    finding={worstOf(findings, pass.source, pass.name)}
                    onLook={() => setLooked(pass)}
                  />
                ))}
              </div>
            </section>
          ))}
          {contents && groups.length === 0 && (
            <p className="text-quiet">
              {search ? `No pass is called ${search}.` : "The sources of this shot hold no passes."}
            </p>
          )}
        </main>
        <FindingsPanel
          onLook={(finding) => {
            const pass = groups
              .flatMap((g) => g.passes)
              .find((p) => p.source === finding.source && p.name === finding.pass);
            if (pass) setLooked(pass);
          }}
        />
      </div>
      {shot && looked && <BigLook looked={looked} findings={findings} onClose={() => setLooked(null)} />}
    </div>
  );
}

function summary(sources: { passes: unknown[]; ids: unknown[]; frames: number }[]): string {
  const passes = sources.reduce((sum, one) => sum + one.passes.length + one.ids.length, 0);
  const frames = Math.max(0, ...sources.map((one) => one.frames));
  return `${sources.length} ${sources.length === 1 ? "source" : "sources"} · ${frames} ${frames === 1 ? "frame" : "frames"} · ${passes} passes`;
}
