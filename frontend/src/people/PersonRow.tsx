import { Ellipsis, Plus } from "lucide-react";
import { answer, api, type Schemas } from "../api/client";
import { IconButton } from "../controls/Button";
import { Menu } from "../controls/Menu";
import { NameInput } from "../controls/NameInput";
import { ago } from "../controls/time";
import { ROLES, type Role } from "./useMe";

type Props = {
  person: Schemas["PersonData"];
  shows: Schemas["ShowName"][];
  isMe: boolean;
  byAdmin: boolean;
  taken: (call: Promise<Schemas["PeopleList"]>) => Promise<boolean>;
};

/** Somebody: their roles by show, and what can be done about them. */
export function PersonRow({ person, shows, isMe, byAdmin, taken }: Props) {
  const about = { params: { path: { person_id: person.id } } };
  const give = (show_id: number, role: Role | null) =>
    taken(
      answer(
        api.POST("/api/shows/{show_id}/people/{person_id}", {
          params: { path: { show_id, person_id: person.id } },
          body: { role },
        }),
      ),
    );
  const rename = (name: string) =>
    taken(answer(api.POST("/api/people/{person_id}/name", { ...about, body: { name } })));
  const roles: Record<string, Role | undefined> = person.roles;
  const others = shows.filter((show) => !roles[show.id]);
  return (
    <li
      aria-label={person.name}
      className="grid grid-cols-[230px_1fr_auto_26px] items-center gap-3 rounded-sm border border-line bg-panel px-3 py-2"
    >
      <div className="min-w-0">
        {byAdmin ? (
          <NameInput
            label={`Name of ${person.name}`}
            name={person.name}
            onName={rename}
            className="-ml-1 w-full font-semibold"
          />
        ) : (
          <b className="block truncate">{person.name}</b>
        )}
        <p className="text-quiet">
          {[isMe && "you", person.admin && "administrator", !person.has_password && "no password yet"]
            .filter(Boolean)
            .join(" · ")}
        </p>
      </div>
      <div className="flex flex-wrap items-center gap-1.5">
        {person.admin ? (
          <span className="text-quiet">looks after the server and owns every show</span>
        ) : (
          <>
            {shows
              .filter((show) => roles[show.id])
              .map((show) => (
                <label key={show.id} className="flex h-[26px] items-center gap-1 rounded-sm border border-line pl-2">
                  <span className="max-w-36 truncate" title={show.name}>
                    {show.name}
                  </span>
                  <select
                    aria-label={`Role of ${person.name} in ${show.name}`}
                    value={roles[show.id]}
                    onChange={(event) => give(show.id, (event.target.value || null) as Role | null)}
                    className="h-full rounded-sm bg-control px-2 font-semibold"
                  >
                    {ROLES.map((role) => (
                      <option key={role}>{role}</option>
                    ))}
                    <option value="">no role any more</option>
                  </select>
                </label>
              ))}
            {others.length > 0 && (
              <Menu
                trigger={
                  <IconButton label={`Let ${person.name} into a show`} look="ghost">
                    <Plus size={14} />
                  </IconButton>
                }
                sections={[
                  {
                    title: "let them look at",
                    choices: others.map((show) => ({
                      key: String(show.id),
                      label: show.name,
                      onPick: () => give(show.id, "look"),
                    })),
                  },
                ]}
              />
            )}
            {!Object.keys(roles).length && <span className="text-quiet">sees no show yet</span>}
          </>
        )}
      </div>
      <span className="value text-quiet">
        {byAdmin && (person.seen_at ? `here ${ago(person.seen_at)}` : "never here")}
      </span>
      {byAdmin ? (
        <Menu
          trigger={
            <IconButton label={`More about ${person.name}`} look="ghost">
              <Ellipsis size={14} />
            </IconButton>
          }
          sections={[
            {
              choices: [
                {
                  key: "invite",
                  label: person.has_password ? "Invite anew: they choose another password" : "Invite anew",
                  onPick: () => taken(answer(api.POST("/api/people/{person_id}/invitation", about))),
                },
                {
                  key: "admin",
                  label: person.admin ? "No administrator any more" : "Make administrator",
                  onPick: () =>
                    taken(
                      answer(api.POST("/api/people/{person_id}/admin", { ...about, body: { admin: !person.admin } })),
                    ),
                },
              ],
            },
            {
              choices: [
                {
                  key: "remove",
                  label: "Let them in no more",
                  danger: true,
                  onPick: () => taken(answer(api.DELETE("/api/people/{person_id}", about))),
                },
              ],
            },
          ]}
        />
      ) : (
        <span />
      )}
    </li>
  );
}
