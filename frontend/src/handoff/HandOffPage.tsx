import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Schemas } from "../api/client";
import { useShot } from "../bench/BenchPage";
import { Header } from "../bench/Header";
import { cardsOf, documentOf, report, shownName, useSession } from "../bench/session";
import { Button } from "../controls/Button";
import { RenderRow } from "./RenderRow";

type Request = Schemas["RenderRequest"];

const TYPES: Record<"exr" | "png", [NonNullable<Request["type"]>, string][]> = {
  exr: [
    ["half", "half float, linear"],
    ["float", "full float, linear"],
  ],
  png: [
    ["8", "8 bit, sRGB"],
    ["16", "16 bit, sRGB"],
  ],
};
const FIELD = "h-7 w-full rounded-sm bg-control px-2";

/** Rendering and delivering: what to write, and the queue with its progress. */
export function HandOffPage() {
  const problem = useShot();
  const shot = useSession((s) => s.shot);
  const renders = useQuery({
    queryKey: ["renders", shot?.id],
    queryFn: () => answer(api.GET("/api/shots/{shot_id}/renders", { params: { path: { shot_id: shot?.id ?? 0 } } })),
    enabled: shot !== null,
    refetchInterval: (q) =>
      q.state.data?.renders.some((r) => r.state === "queued" || r.state === "running") ? 500 : 4000,
  });
  if (problem) return <p className="p-8 text-coral">{problem}</p>;
  return (
    <div className="flex h-full flex-col">
      <Header place="hand-off" />
      <div className="flex min-h-0 flex-1">
        <aside className="w-[300px] shrink-0 overflow-y-auto border-r border-line bg-panel p-4">
          {shot && <OrderForm />}
        </aside>
        <main className="min-w-0 flex-1 overflow-y-auto p-6" aria-label="Renders">
          <h2 className="mb-3 text-[15px] font-semibold">Renders</h2>
          {renders.data?.renders.length === 0 && (
            <p className="max-w-md text-quiet">
              Nothing has been rendered from this shot. Choose the frames and the format on the left: the files are
              written in the background and can be fetched here.
            </p>
          )}
          <div className="flex flex-col gap-2">
            {renders.data?.renders.map((render) => (
              <RenderRow key={render.id} render={render} />
            ))}
          </div>
        </main>
      </div>
    </div>
  );
}

function OrderForm() {
  const { shot, frame } = useSession();
  const queries = useQueryClient();
  const format = shot ? documentOf(shot).format : { first: 0, last: 0 };
  const [frames, setFrames] = useState("");
  const [kind, setKind] = useState<"exr" | "png">("exr");
  const [type, setType] = useState<NonNullable<Request["type"]>>("half");
  const [what, setWhat] = useState("");
  if (!shot) return null;
  const mattes = Object.entries(documentOf(shot).mattes ?? {});

  const order = async () => {
    const [part, ...name] = what.split(":");
    const chosen = name.join(":") || undefined;
    try {
      await answer(
        api.POST("/api/shots/{shot_id}/renders", {
          params: { path: { shot_id: shot.id } },
          body: {
            revision: shot.revision,
            frames,
            format: kind,
            type,
            upto: part === "upto" ? chosen : undefined,
            matte: part === "matte" ? chosen : undefined,
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
          {(["exr", "png"] as const).map((one) => (
            <Button
              key={one}
              aria-pressed={kind === one}
              className={kind === one ? "outline outline-1 outline-verdigris" : ""}
              onClick={() => {
                setKind(one);
                setType(TYPES[one][0]?.[0] ?? "half");
              }}
            >
              {one.toUpperCase()}
            </Button>
          ))}
        </div>
        <div className="mt-1 flex flex-col gap-1">
          {TYPES[kind].map(([value, label]) => (
            <label key={value} className="flex items-center gap-2">
              <input
                type="radio"
                name="type"
                className="accent-verdigris"
                checked={type === value}
                onChange={() => setType(value)}
              />
              {label}
            </label>
          ))}
        </div>
      </fieldset>
      <Button look="primary" type="submit" className="h-8 justify-center">
        Render
      </Button>
      <p className="text-[11.5px] text-quiet">
        EXR holds linear light with its transparency. PNG gets the sRGB view. Mattes are written as one channel, without
        a view.
      </p>
    </form>
  );
}
