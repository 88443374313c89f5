import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Schemas } from "../api/client";
import type { Space } from "../api/document";
import { useSessionParts } from "../bench/session";
import { cardsOf, documentOf, listedMattes, shownName } from "../bench/shotParts";
import { useContents } from "../bench/useContents";
import { Button } from "../controls/Button";
import { Choice } from "../controls/Choice";
import { report } from "../controls/notices";
import { Ticked } from "../controls/Ticked";
import { useLost } from "../lost/useLost";
import { FORMATS, type Format, holds, PACKS, SIZES, SPACES, TYPES } from "./formats";
import { LostNote, MissingNote } from "./LostNote";
import { MOVIES, type MovieKind } from "./movies";
import { Radios } from "./Radios";

type Request = Schemas["RenderRequest"];

const FIELD = "h-7 w-full rounded-sm bg-control px-2";

/** A size in pixels at 1/by. */
const at = (size: number, by: string) => Math.ceil(size / Number(by));

/** What to write: the picture, or mattes in one way or another. */
export function OrderForm() {
  const { shot, frame, chosen } = useSessionParts("shot", "frame", "chosen");
  const queries = useQueryClient();
  const lost = useLost();
  const contents = useContents();
  const format = shot ? documentOf(shot).format : { first: 0, last: 0, width: 0, height: 0 };
  const [frames, setFrames] = useState("");
  const [kind, setKind] = useState<Format>("exr");
  const [type, setType] = useState<NonNullable<Request["type"]>>("half");
  const [what, setWhat] = useState(chosen.length ? "mattes:chosen" : "");
  const [pack, setPack] = useState<NonNullable<Request["pack"]>>("single");
  const [movie, setMovie] = useState<MovieKind | "">("");
  const [ownSpace, setSpace] = useState<Space | null>(null);
  const space = ownSpace ?? (shot && documentOf(shot).colour?.working) ?? "lin_rec709";
  const [scale, setScale] = useState("1");
  const [caption, setCaption] = useState(false);
  const [raise, setRaise] = useState(true);
  if (!shot) return null;
  const held = (source: string) => documentOf(shot).sources?.[source]?.missing === "hold";
  const missing = (contents?.sources ?? []).flatMap((source) => (held(source.name) ? [] : source.missing));
  const mattes = listedMattes(shot);

  const wanted =
    what === "mattes:all"
      ? mattes.map(([id]) => id)
      : what === "mattes:chosen"
        ? chosen
        : what.startsWith("matte:")
          ? [what.slice(6)]
          : [];
  const several = wanted.length > 1;

  const order = async () => {
    const [part, ...name] = what.split(":");
    const one = name.join(":") || undefined;
    try {
      await answer(
        api.POST("/api/shots/{shot_id}/renders", {
          params: { path: { shot_id: shot.id } },
          body: {
            revision: shot.revision,
            frames,
            format: kind,
            type,
            scale: Number(scale) as Request["scale"],
            upto: part === "upto" ? one : undefined,
            mattes: wanted,
            pack,
            movie: several ? undefined : movie || undefined,
            caption: movie !== "" && wanted.length === 0 && caption,
            space: kind === "exr" && wanted.length === 0 ? space : undefined,
            raise_alpha: raise,
          },
        }),
      );
      queries.invalidateQueries({ queryKey: ["renders", shot.id] });
    } catch (error) {
      report(error);
    }
  };
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        order();
      }}
    >
      <h2 className="text-[14px] font-semibold">Render frames</h2>
      <label className="flex flex-col gap-1">
        <span className="text-quiet">What</span>
        <select className={FIELD} value={what} onChange={(event) => setWhat(event.target.value)}>
          <option value="">finished picture</option>
          <optgroup label="picture up to">
            {cardsOf(shot).map((card) => (
              <option key={card.id} value={`upto:${card.id}`}>
                {shownName(card)}
              </option>
            ))}
          </optgroup>
          {mattes.length > 1 && (
            <optgroup label="mattes">
              {chosen.length > 0 && <option value="mattes:chosen">the {chosen.length} chosen on the bench</option>}
              <option value="mattes:all">all {mattes.length}</option>
            </optgroup>
          )}
          {mattes.length > 0 && (
            <optgroup label="matte">
              {mattes.map(([id, matte]) => (
                <option key={id} value={`matte:${id}`}>
                  {matte.name ?? id}
                </option>
              ))}
            </optgroup>
          )}
        </select>
      </label>
      {several && (
        <fieldset className="flex flex-col gap-1">
          <legend className="mb-1 text-quiet">Files</legend>
          <Radios name="pack" choices={PACKS} value={pack} off={(value) => !holds(kind, value)} onPick={setPack} />
        </fieldset>
      )}
      <label className="flex flex-col gap-1">
        <span className="text-quiet">Frames</span>
        <input
          className={`${FIELD} value`}
          value={frames}
          placeholder={`${format.first}-${format.last}`}
          onChange={(event) => setFrames(event.target.value)}
        />
        <span className="flex gap-2 text-[11.5px]">
          <button type="button" className="text-verdigris hover:underline" onClick={() => setFrames("")}>
            all {format.last - format.first + 1}
          </button>
          <button type="button" className="text-verdigris hover:underline" onClick={() => setFrames(String(frame))}>
            only {frame}
          </button>
        </span>
      </label>
      <fieldset className="flex flex-col gap-1">
        <legend className="mb-1 text-quiet">Format</legend>
        <div className="flex gap-1">
          {FORMATS.map(([one, label]) => (
            <Button
              key={one}
              aria-pressed={kind === one}
              className={kind === one ? "outline outline-1 outline-verdigris" : ""}
              onClick={() => {
                setKind(one);
                if (!holds(one, pack)) setPack("single");
                setType(TYPES[one][0]?.[0] ?? "half");
              }}
            >
              {label}
            </Button>
          ))}
        </div>
        <div className="mt-1 flex flex-col gap-1">
          <Radios name="type" choices={TYPES[kind]} value={type} onPick={setType} />
        </div>
      </fieldset>
      <Choice
        label="Size"
        value={scale}
        options={SIZES.map(([by, label]) => [by, `${label}: ${at(format.width, by)}×${at(format.height, by)}`])}
        onChange={setScale}
      />
      {kind === "exr" && !wanted.length && (
        <Choice label="Colours of EXR" value={space} options={SPACES} onChange={setSpace} />
      )}
      {!several && (
        <Choice label="Movie of the frames" value={movie} options={[["", "none"], ...MOVIES]} onChange={setMovie} />
      )}
      {movie && !wanted.length && (
        <Ticked on={caption} onTick={setCaption}>
          Shot, frame and revision in its pictures
        </Ticked>
      )}
      {(kind === "png" || kind === "tiff") && !wanted.length && (
        <Ticked on={raise} onTick={setRaise}>
          Raise alpha by brightness
          <span className="text-[11.5px] text-quiet">
            {raise
              ? `${kind.toUpperCase()} holds no light without alpha: glow outside the elements gets as much alpha as it is bright.`
              : `Glow outside the elements is lost: ${kind.toUpperCase()} holds no light without alpha.`}
          </span>
        </Ticked>
      )}
      <LostNote lost={lost} shotId={shot.id} />
      <MissingNote missing={missing} />
      <Button look="primary" type="submit" className="h-8 justify-center">
        {lost.length ? "Render all the same" : "Render"}
      </Button>
      <p className="text-[11.5px] text-quiet">
        EXR holds linear light with its transparency. All others, movies too, get the view of the shot. Mattes are
        written as they are, without a view.
      </p>
    </form>
  );
}
