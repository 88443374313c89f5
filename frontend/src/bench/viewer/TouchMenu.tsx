import { Blend, X } from "lucide-react";
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { toast } from "sonner";
import type { UnderCursor } from "../../api/client";
import { IconButton } from "../../controls/Button";
import { Segments } from "../../controls/Segments";
import { borderLeak, borderWords } from "../matte/BorderNote";
import { lastPart, partsBefore } from "../matte/names";
import { TailOfName } from "../matte/TailOfName";
import { nameOfMatte, type Offer, type On, useSession, useSessionParts } from "../session";
import { cardName, type LookingAt } from "../shotParts";
import { useDisplayNames } from "../useDisplayNames";
import { Proposals } from "./Proposals";
import { placeOf } from "./useUnder";
import { Wishes } from "./Wishes";

type Props = {
  under: UnderCursor;
  /** What lies behind was lit: it is chosen instead of what covers most. */
  lit: Offer | undefined;
  at: [number, number];
  left: number;
  top: number;
  radius: number;
  onClose: () => void;
};
type Choice = { key: string; text: string; note?: string; on?: On; offer?: Offer; off?: boolean };

/** What can be isolated where the picture was touched, and what can be done to it right there. */
export function TouchMenu({ under, lit, at, left, top, radius, onClose }: Props) {
  const { touch, lookingAt, shot } = useSessionParts("touch", "lookingAt", "shot");
  const { shown } = useDisplayNames();
  const choices = choicesOf(under, shown, lookingAt.kind === "pass");
  const start = choices.find((one) => lit && one.offer && same(one.offer, lit)) ?? choices.find((one) => !one.off);
  const [chosen, setChosen] = useState<Choice | undefined>(start);
  const [more, setMore] = useState(choices.length === 0);
  const first = useRef<HTMLDivElement>(null);
  const byKey = useRef<(action: string) => void>(() => undefined);

  useEffect(() => {
    first.current?.querySelector<HTMLButtonElement>("[data-first]")?.focus();
    const key = (event: KeyboardEvent) => {
      if (event.key === "Escape") {
        event.stopPropagation();
        onClose();
      } else if (event.key === "m" && !event.ctrlKey && !event.metaKey && !(event.target instanceof HTMLInputElement)) {
        event.stopPropagation();
        byKey.current("matte");
      }
    };
    window.addEventListener("keydown", key, true);
    return () => window.removeEventListener("keydown", key, true);
  }, [onClose]);

  // it grows with what it shows, and stays on the stage
  useLayoutEffect(() => {
    const menu = first.current;
    const stage = menu?.offsetParent;
    if (!menu || !stage) return;
    const fit = () => {
      menu.style.top = `${Math.max(4, Math.min(top, stage.clientHeight - menu.offsetHeight - 4))}px`;
    };
    const observer = new ResizeObserver(fit);
    observer.observe(menu);
    return () => observer.disconnect();
  }, [top]);

  const act = (action: string, tucked?: string) => {
    if (!chosen) return;
    onClose();
    const what = chosen.on ? { on: chosen.on } : { offer: chosen.offer };
    touch({ x: at[0], y: at[1], radius, ...sourceOf(lookingAt), ...what, action, tucked }).then((matte) => {
      if (matte && (chosen.on === "both" || (chosen.offer?.parts.length ?? 0) > 1)) warnOfBorders(matte);
    });
  };
  byKey.current = act;
  const title = under.object ? shown(under.object.name) : (under.offers?.[0]?.titles.join(" x ") ?? under.source ?? "");
  const material = under.object && under.material ? shown(under.material.name).replaceAll("_", " ") : null;
  const canTreat = under.card !== null && chosen !== undefined;
  return (
    <div
      ref={first}
      role="dialog"
      aria-label={`Touch ${title}`}
      className="absolute z-20 max-h-[calc(100%-8px)] w-[312px] overflow-y-auto rounded-sm border border-line bg-panel p-2 shadow-xl"
      style={{ left, top }}
    >
      <div className="flex items-start gap-2">
        <div className="min-w-0 flex-1">
          <div className="truncate font-semibold" title={title}>
            {lastPart(title)}
          </div>
          {partsBefore(title) && <TailOfName name={partsBefore(title)} className="block text-[11.5px] text-quiet" />}
          <div className="truncate text-[11.5px] text-quiet">
            {material ?? under.offers?.[0]?.place ?? "no ID here"}
          </div>
        </div>
        <IconButton label="Let go" shortcut="Esc" look="ghost" onClick={onClose}>
          <X size={14} />
        </IconButton>
      </div>
      {choices.length > 0 && (
        <Segments
          className="mt-2 flex flex-wrap gap-1"
          shape="h-[24px] max-w-full"
          label="What to isolate"
          name="what to isolate"
          choices={choices.map((one) => ({ value: one.key, text: one.text, title: one.note, off: one.off }))}
          value={chosen?.key}
          onPick={(key) => setChosen(choices.find((one) => one.key === key))}
        />
      )}
      {more ? (
        <Proposals
          at={at}
          radius={radius}
          without={choices.flatMap((one) => (one.offer ? [one.offer] : []))}
          place={placeOf(lookingAt)}
          chosen={chosen?.key}
          onChoose={(key, offer) => setChosen({ key, text: offer.titles.join(" x "), offer })}
        />
      ) : (
        <button
          type="button"
          className="mt-1.5 text-[11.5px] text-quiet underline-offset-2 hover:text-text hover:underline"
          onClick={() => setMore(true)}
        >
          other ways to isolate it…
        </button>
      )}
      <button
        type="button"
        disabled={!chosen}
        onClick={() => act("matte")}
        className="mt-2 flex h-[26px] w-full items-center gap-1.5 rounded-sm bg-lilac-ground px-2 text-lilac hover:brightness-125"
      >
        <Blend size={13} /> Make its matte
        <kbd className="value ml-auto text-[10px] opacity-70">m</kbd>
      </button>
      <Wishes under={under} enabled={canTreat} onAct={act} onClose={onClose} />
      <p className="mt-2 text-[11px] text-quiet">
        {under.card ? (
          <>
            A treatment goes on card <span className="text-text">{cardName(shot, under.card)}</span>
          </>
        ) : (
          "No card shows this: a matte can be made of it"
        )}
      </p>
    </div>
  );
}

/** What was crossed may be little but shared borders: said at once, whatever is looked at next. */
async function warnOfBorders(matte: string): Promise<void> {
  const { saved, frame } = useSession.getState();
  const leak = saved && (await borderLeak(saved.id, saved.revision, frame, matte).catch(() => null));
  if (leak) toast.warning(`${nameOfMatte(matte)}: about ${borderWords(leak)}.`, { duration: 15000, closeButton: true });
}

const sourceOf = (look: LookingAt) => {
  const { source } = placeOf(look);
  return source ? { source } : {};
};

const same = (a: Offer, b: Offer): boolean => JSON.stringify(a.parts) === JSON.stringify(b.parts);

/** Object, material and both; then assets, what lies behind, numbers and channels. */
function choicesOf(under: UnderCursor, shown: (name: string) => string, ofPass: boolean): Choice[] {
  const offers = under.offers ?? [];
  const offerOf = (hit: { name: string; layer: string } | null | undefined) =>
    offers.find((one) => hit && one.place === hit.layer && one.titles[0] === hit.name);
  const object = offerOf(under.object);
  const material = offerOf(under.material);
  const choices: Choice[] = [];
  const packed = offers.filter((one) => one.parts[0]?.kind !== "id");
  const asChoice = (offer: Offer, note: string): Choice => ({
    key: JSON.stringify(offer.parts),
    text: offer.titles.map((title) => lastPart(shown(title))).join(" x "),
    note: offer.titles.some((title) => partsBefore(title)) ? `${offer.titles.join(" x ")}: ${note}` : note,
    offer,
  });
  const percent = (share: number | undefined) => `${Math.round((share ?? 1) * 100)} % of this pixel`;
  // where a packed matte or an index pass is looked at, what it holds comes first
  if (ofPass && packed[0] && packed[0] === offers[0])
    choices.push(...packed.map((one) => asChoice(one, `${one.place}, ${percent(one.coverage)}`)));
  // where no object has a name, all there is is proposed with pictures
  if (!under.object) return choices;
  choices.push({ key: "object", text: "object", on: "object", offer: object });
  choices.push({ key: "material", text: "material", on: "material", offer: material, off: !under.material });
  choices.push({ key: "both", text: "both crossed", on: "both", off: !under.material });
  const rest = offers.filter((one) => one !== object && one !== material && !choices.some((c) => c.offer === one));
  const asset = rest.findIndex((one) => one.place?.includes("asset"));
  if (asset >= 0)
    choices.push({ ...asChoice(rest[asset] as Offer, shown(rest[asset]?.titles[0] ?? "")), text: "asset" });
  rest.splice(asset, asset >= 0 ? 1 : 0);
  choices.push(...rest.map((one) => asChoice(one, `${one.place?.replaceAll("_", " ")}, ${percent(one.coverage)}`)));
  return choices;
}
