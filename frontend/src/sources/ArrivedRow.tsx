import { ChevronDown } from "lucide-react";
import { fileOf } from "../api/files";
import { Button, IconButton } from "../controls/Button";
import { counted } from "../controls/counted";
import { Menu } from "../controls/Menu";
import { frameSpan } from "../controls/time";
import { FoundThumb } from "../takein/FoundThumb";
import type { Arrived } from "./useArrived";

type Props = {
  arrived: Arrived;
  /** The source that is to be replaced. */
  replacing: string | undefined;
  sources: string[];
  busy: boolean;
  onAdd: () => void;
  onReplace: (source: string) => void;
  onAttach: (source: string) => void;
};

/** A picture that may come into the shot: what it is, and what can be done with it, the likeliest first. */
export function ArrivedRow({ arrived, replacing, sources, busy, onAdd, onReplace, onAttach }: Props) {
  const { found, alike, used, plate } = arrived;
  const usual = replacing ?? alike;
  const others = sources.filter((one) => one !== usual);
  const frames = `${found.movie ? "movie " : ""}${frameSpan(found.first, found.last)}`;
  return (
    <article
      className="mb-1.5 flex items-center gap-3 rounded-sm border border-line bg-ground/40 px-3 py-2"
      aria-label={found.name}
    >
      <FoundThumb found={found} />
      <span className="min-w-0 flex-1">
        <span className="flex items-baseline gap-2">
          <b className="truncate">{found.name}</b>
          {found.older && <span className="shrink-0 text-[11px] text-quiet">older version</span>}
          {plate && !used && <span className="text-[11px] text-verdigris">plate</span>}
          {used && <span className="text-[11px] text-quiet">is source {used}</span>}
          {alike && <span className="text-[11px] text-amber">named like {alike}</span>}
        </span>
        <span className={`block truncate ${found.problem ? "text-coral" : "value text-quiet"}`}>
          {found.problem ??
            `${frames} · ${found.width}×${found.height} · ${counted(found.passes, "pass")} · ${fileOf(found.path)}`}
        </span>
      </span>
      {!found.problem && used !== usual && usual && (
        <Button look={replacing ? "primary" : "plain"} disabled={busy} onClick={() => onReplace(usual)}>
          {replacing ? "Choose…" : `Replace ${usual}…`}
        </Button>
      )}
      {!found.problem && !replacing && (
        <>
          <Button
            look={used ? "plain" : "primary"}
            disabled={busy}
            onClick={onAdd}
            aria-label={`${used ? "Add again" : "Add"} ${found.name}`}
          >
            {used ? "Add again" : "Add"}
          </Button>
          {sources.length > 0 && (
            <Menu
              trigger={
                <IconButton label={`Other ways to use ${found.name}`} look="ghost" disabled={busy}>
                  <ChevronDown size={14} />
                </IconButton>
              }
              sections={[
                {
                  title: "in place of a source",
                  choices: others.map((one) => ({ key: `replace ${one}`, label: one, onPick: () => onReplace(one) })),
                },
                {
                  title: "its passes and mattes go with",
                  choices: sources.map((one) => ({ key: `attach ${one}`, label: one, onPick: () => onAttach(one) })),
                },
              ].filter((section) => section.choices.length)}
            />
          )}
        </>
      )}
    </article>
  );
}
