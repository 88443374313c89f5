import { X } from "lucide-react";
import { useState } from "react";
import { answer, api } from "../../api/client";
import type { Card, Tuck } from "../../api/document";
import { matteOf } from "../../api/document";
import { Hint } from "../../controls/Button";
import { Menu } from "../../controls/Menu";
import { report, told } from "../../controls/notices";
import { nameOfMatte, useSession, useSessionParts } from "../session";
import { buildOf, bundleOf, cardName, documentOf, listedMattes, pathOf, shownName } from "../shotParts";
import { FrameSpan } from "./FrameSpan";
import { usePops } from "./usePops";

type Frames = [number, number];

/** The spans of frames for which a tuck of a card is needed around the one that is looked at, or by the depth of both. */
async function proposed(card: Card, tuck: number, by: "overlap" | "depth"): Promise<Frames[] | null> {
  const { saved, frame } = useSession.getState();
  if (!saved) return null;
  const params = {
    path: { shot_id: saved.id },
    query: { revision: saved.revision, frame, card: card.id, tuck },
  };
  try {
    const spans =
      by === "depth"
        ? (await answer(api.GET("/api/shots/{shot_id}/cards/tuck-depths", { params }))).spans
        : [await answer(api.GET("/api/shots/{shot_id}/cards/tuck-frames", { params }))];
    return spans.map((span) => [span.first, span.last]);
  } catch (error) {
    report(error);
    return null;
  }
}

const PROPOSALS = [
  {
    by: "overlap",
    label: "as needed",
    title: "from when to when they lie over one another around this frame, with ends at which nothing jumps",
  },
  {
    by: "depth",
    label: "by depth",
    title: "on all frames on which it is farther away than what it is behind, by the depth passes of both",
  },
] as const;

/** What the card is held behind, and on which frames. */
export function TuckPart({ card }: { card: Card }) {
  const { shot, edit, frame } = useSessionParts("shot", "edit", "frame");
  const pops = usePops(card);
  const [asking, setAsking] = useState<string | null>(null);
  if (!shot) return null;
  const tucks = card.tuck ?? [];
  const { first, last } = documentOf(shot).format;
  const path = [...pathOf(shot, card.id), "tuck"];
  const put = (next: Tuck[], command: string) => edit([{ op: "set", path, value: next.length ? next : null }], command);
  const cards = buildOf(shot, bundleOf(shot, card.id));
  const behind = cards
    .slice(
      0,
      cards.findIndex((one) => one.id === card.id),
    )
    .filter((one) => !one.treat);
  const mattes = listedMattes(shot);
  const change = (at: number, tuck: Tuck, command: string) =>
    put(
      tucks.map((one, index) => (index === at ? tuck : one)),
      command,
    );
  const propose = async (at: number, by: "overlap" | "depth") => {
    setAsking(`${at} ${by}`);
    const spans = await proposed(card, at, by);
    setAsking(null);
    const tuck = tucks[at];
    if (!spans || !tuck) return;
    if (!spans.length) {
      told(
        `By depth ${shownName(card)} is never behind ${nameOfMatte(matteOf(tuck.behind))}: its frames stay as they are.`,
      );
      return;
    }
    const parts = spans.map((frames) => ({ ...tuck, frames }));
    put(
      tucks.flatMap((one, index) => (index === at ? parts : [one])),
      `tuck ${shownName(card)} on ${spans.map((frames) => frames.join(" to ")).join(" and ")}`,
    );
  };
  const placeable = card.join === undefined || card.join === "over";
  if (!tucks.length && (!placeable || !behind.length || !mattes.length)) return null;
  return (
    <section aria-label="Tuck" className="mb-1">
      {tucks.map((tuck, at) => {
        const frames: Frames = tuck.frames ?? [first, last];
        const here = frame >= frames[0] && frame <= frames[1];
        const lies = behind.some((one) => one.id === tuck.card);
        const name = nameOfMatte(matteOf(tuck.behind));
        return (
          <div
            // biome-ignore lint/suspicious/noArrayIndexKey: tucks have nothing but their order
            key={at}
            className="mb-1 grid grid-cols-[78px_1fr] items-center gap-x-2"
          >
            <span className={here && lies ? "text-text" : "text-quiet"}>{at ? "" : "Tucked"}</span>
            <div className="flex h-[24px] min-w-0 items-center gap-1.5">
              <span className="text-quiet">behind</span>
              <span className="truncate rounded-sm bg-lilac-ground px-[7px] py-[2px] text-[11px] text-lilac">
                {name}
              </span>
              <span className="truncate text-[11px] text-quiet">of {cardName(shot, tuck.card)}</span>
              <button
                type="button"
                aria-label={`Tuck it behind ${name} no more`}
                className="ml-auto text-faint hover:text-text"
                onClick={() =>
                  put(
                    tucks.filter((one) => one !== tuck),
                    `tuck ${shownName(card)} behind ${name} no more`,
                  )
                }
              >
                <X size={12} />
              </button>
            </div>
            <span />
            <div className="flex flex-wrap items-center gap-1.5 text-[11.5px] text-quiet">
              {lies ? (
                <>
                  frames
                  <FrameSpan
                    frames={frames}
                    of=" tucked"
                    className="w-[58px]"
                    onSet={(next) =>
                      change(at, { ...tuck, frames: next }, `tuck ${shownName(card)} on ${next.join(" to ")}`)
                    }
                  />
                  {pops
                    .filter((pop) => pop.tuck === at && frames[pop.end === "first" ? 0 : 1] === pop.frame)
                    .map((pop) => (
                      <p key={pop.end} role="status" className="w-full text-amber">
                        It jumps at {pop.frame}: they overlap there.{" "}
                        {pop.clean !== null && (
                          <button
                            type="button"
                            className="underline underline-offset-2 hover:text-text"
                            onClick={() => {
                              const next: Frames = [...frames];
                              next[pop.end === "first" ? 0 : 1] = pop.clean ?? pop.frame;
                              change(at, { ...tuck, frames: next }, `tuck ${shownName(card)} on ${next.join(" to ")}`);
                            }}
                          >
                            {pop.end === "first" ? "Begin" : "End"} at {pop.clean}
                          </button>
                        )}
                      </p>
                    ))}
                  {PROPOSALS.map(({ by, label, title }) => (
                    <button
                      key={by}
                      type="button"
                      className="hover:text-text disabled:text-faint"
                      title={title}
                      disabled={asking !== null}
                      onClick={() => propose(at, by)}
                    >
                      {asking === `${at} ${by}` ? "looking…" : label}
                    </button>
                  ))}
                  {tuck.frames && (
                    <button
                      type="button"
                      className="hover:text-text"
                      onClick={() => {
                        const { frames: _, ...always } = tuck;
                        change(at, always, `tuck ${shownName(card)} on all frames`);
                      }}
                    >
                      all
                    </button>
                  )}
                </>
              ) : (
                <span className="text-amber">{cardName(shot, tuck.card)} is not behind it: nothing is held back</span>
              )}
            </div>
          </div>
        );
      })}
      {placeable && behind.length > 0 && mattes.length > 0 && (
        <div className="grid h-[24px] grid-cols-[78px_1fr] items-center gap-2">
          <span className="text-quiet">{tucks.length ? "" : "Tuck"}</span>
          <Menu
            trigger={
              <button type="button" className="text-left text-[11.5px] text-faint hover:text-text">
                <Hint text="Hold the card behind something that lies below it, without leaks at the edges">
                  <span>{tucks.length ? "behind something else too…" : "behind…"}</span>
                </Hint>
              </button>
            }
            sections={[...behind].reverse().map((one) => ({
              title: shownName(one),
              choices: mattes.map(([id, matte]) => ({
                key: `${one.id} ${id}`,
                label: matte.name ?? id,
                onPick: () =>
                  put(
                    [...tucks, { behind: id, card: one.id }],
                    `tuck ${shownName(card)} behind ${matte.name ?? id} of ${shownName(one)}`,
                  ),
              })),
            }))}
          />
        </div>
      )}
    </section>
  );
}
