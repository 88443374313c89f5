import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { Dialog } from "radix-ui";
import { type FormEvent, useState } from "react";
import { answer, api, type Schemas } from "../../../api/client";
import type { Card } from "../../../api/document";
import { Button, IconButton } from "../../../controls/Button";
import { DialogFrame } from "../../../controls/DialogFrame";
import { report } from "../../../controls/notices";
import { type Edit, useSession } from "../../session";
import { listedMattes, shownName } from "../../shotParts";
import { toldStep } from "../../toldStep";

type Recipe = Schemas["RecipeData"];
type Missing = Schemas["MissingData"];
type Wanting = { recipe: Recipe; missing: Missing[]; chosen: Record<string, string | null> };

/** The recipes of the show: kept of this card, laid on it, thrown away; a matte that is not found is asked for. */
export function RecipesDialog({ card, onClose }: { card: Card; onClose: () => void }) {
  const shot = useSession((s) => s.saved);
  const queries = useQueryClient();
  const [wanting, setWanting] = useState<Wanting | null>(null);
  const id = shot?.id ?? 0;
  const key = ["recipes", id];
  const query = useQuery({
    queryKey: key,
    queryFn: () => answer(api.GET("/api/shots/{shot_id}/recipes", { params: { path: { shot_id: id } } })),
    enabled: shot !== null,
  });
  const recipes = query.data?.recipes ?? [];

  const lay = async (recipe: Recipe, chosen: Wanting["chosen"] = {}) => {
    const { saved, frame, edit } = useSession.getState();
    if (!saved) return;
    try {
      const found = await answer(
        api.POST("/api/shots/{shot_id}/recipes/{recipe_id}/laying", {
          params: { path: { shot_id: saved.id, recipe_id: recipe.id } },
          body: { revision: saved.revision, frame, card: card.id, chosen },
        }),
      );
      if (found.missing.length) {
        setWanting({ recipe, missing: found.missing, chosen });
        return;
      }
      onClose();
      if (!(await edit(found.edits as Edit[], `lay ${recipe.name} on ${shownName(card)}`))) return;
      const without = found.left_out.length ? `, without ${found.left_out.join(", ")}: a treat card has none` : "";
      toldStep(`Laid ${recipe.name} on ${shownName(card)}${without}`);
    } catch (error) {
      report(error);
    }
  };
  const remove = async (recipe: Recipe) => {
    try {
      const path = { shot_id: id, recipe_id: recipe.id };
      queries.setQueryData(
        key,
        await answer(api.DELETE("/api/shots/{shot_id}/recipes/{recipe_id}", { params: { path } })),
      );
    } catch (error) {
      report(error);
    }
  };
  return (
    <DialogFrame shape="middle" onClose={onClose}>
      <Dialog.Title className="border-b border-line px-5 py-3 font-semibold">
        {wanting ? `Mattes for ${wanting.recipe.name}` : `Recipes of ${shot?.show ?? "the show"}`}
      </Dialog.Title>
      {wanting ? (
        <Mattes wanting={wanting} onLay={(chosen) => lay(wanting.recipe, chosen)} onBack={() => setWanting(null)} />
      ) : (
        <>
          <div className="min-h-0 flex-1 overflow-y-auto px-5 py-3">
            {query.isSuccess && recipes.length === 0 && (
              <p className="text-quiet">
                None yet. Keep the treatments of a card under a name, and lay them on any card of the show.
              </p>
            )}
            <ul>
              {recipes.map((recipe) => (
                <li
                  key={recipe.id}
                  aria-label={`Recipe ${recipe.name}`}
                  className="flex items-center gap-3 border-b border-line/60 py-2 last:border-0"
                >
                  <div className="min-w-0 flex-1">
                    <div className="truncate">{recipe.name}</div>
                    <div className="truncate text-[11.5px] text-quiet">
                      {recipe.treatments.join(" · ")}
                      {recipe.mattes.length > 0 && ` · through ${recipe.mattes.join(", ")}`}
                    </div>
                  </div>
                  <Button onClick={() => lay(recipe)}>Lay on {shownName(card)}</Button>
                  <IconButton label={`Delete recipe ${recipe.name}`} look="ghost" onClick={() => remove(recipe)}>
                    <Trash2 size={13} />
                  </IconButton>
                </li>
              ))}
            </ul>
          </div>
          <Keep card={card} recipes={recipes} onKept={(next) => queries.setQueryData(key, next)} />
        </>
      )}
    </DialogFrame>
  );
}

/** Keeps the card's treatments under a name, or puts them in the place of those that have it. */
function Keep(props: { card: Card; recipes: Recipe[]; onKept: (list: Schemas["RecipeList"]) => void }) {
  const { card, recipes, onKept } = props;
  const [name, setName] = useState("");
  const count = card.treatments?.length ?? 0;
  const taken = recipes.some((one) => one.name === name.trim());
  const keep = async (event: FormEvent) => {
    event.preventDefault();
    const { saved } = useSession.getState();
    if (!saved || !name.trim()) return;
    try {
      const body = { revision: saved.revision, card: card.id, name: name.trim(), replace: taken };
      const path = { shot_id: saved.id };
      onKept(await answer(api.POST("/api/shots/{shot_id}/recipes", { params: { path }, body })));
      setName("");
    } catch (error) {
      report(error);
    }
  };
  if (!count)
    return (
      <p className="border-t border-line px-5 py-3 text-quiet">{shownName(card)} has no treatments to keep yet.</p>
    );
  return (
    <form className="flex items-center gap-2 border-t border-line px-5 py-3" onSubmit={keep}>
      <label className="shrink-0" htmlFor="recipe-name">
        Keep {count === 1 ? "the treatment" : `the ${count} treatments`} of {shownName(card)} as
      </label>
      <input
        id="recipe-name"
        className="h-[28px] min-w-0 flex-1 rounded-sm bg-control px-2"
        value={name}
        maxLength={200}
        placeholder="a name"
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => event.stopPropagation()}
      />
      <Button type="submit" look="primary" disabled={!name.trim()}>
        {taken ? "Replace it" : "Keep"}
      </Button>
    </form>
  );
}

/** Which mattes of this shot stand for those of a recipe that were not found. */
function Mattes(props: { wanting: Wanting; onLay: (chosen: Wanting["chosen"]) => void; onBack: () => void }) {
  const { wanting, onLay, onBack } = props;
  const shot = useSession((s) => s.shot);
  const [chosen, setChosen] = useState<Record<string, string>>({});
  const mattes = listedMattes(shot);
  const all = wanting.missing.every((one) => chosen[one.matte] !== undefined);
  return (
    <>
      <div className="min-h-0 flex-1 overflow-y-auto px-5 py-3">
        <p className="mb-2 text-quiet">Nothing in this shot is like them. Choose what stands in their place.</p>
        {wanting.missing.map((one) => (
          <label key={one.matte} className="grid grid-cols-[1fr_220px] items-center gap-3 py-1">
            <span className="truncate">
              {one.name} <span className="text-[11.5px] text-quiet">for {one.treatments.join(", ")}</span>
            </span>
            <select
              aria-label={`In place of ${one.name}`}
              className={`h-[26px] rounded-sm bg-control px-2 ${chosen[one.matte] === undefined ? "text-amber" : ""}`}
              value={chosen[one.matte] ?? "?"}
              onChange={(event) => setChosen({ ...chosen, [one.matte]: event.target.value })}
            >
              <option value="?" disabled>
                choose…
              </option>
              <option value="">everywhere</option>
              {mattes.map(([id, matte]) => (
                <option key={id} value={id}>
                  {matte.name ?? id}
                </option>
              ))}
            </select>
          </label>
        ))}
      </div>
      <div className="flex justify-end gap-2 border-t border-line px-5 py-3">
        <Button onClick={onBack}>Back</Button>
        <Button
          look="primary"
          disabled={!all}
          onClick={() => {
            const given = Object.entries(chosen).map(([matte, id]) => [matte, id || null]);
            onLay({ ...wanting.chosen, ...Object.fromEntries(given) });
          }}
        >
          Lay it on
        </Button>
      </div>
    </>
  );
}
