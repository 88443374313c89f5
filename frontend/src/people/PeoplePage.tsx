import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Schemas } from "../api/client";
import { useTaking } from "../api/taking";
import { NameForm } from "../controls/NameForm";
import { TopBar } from "../controls/TopBar";
import { useTitle } from "../controls/useTitle";
import { ChangeList } from "./ChangeList";
import { PersonRow } from "./PersonRow";
import { MEANINGS } from "./roles";
import { SecretLine } from "./SecretLine";
import { ROLES, useMe } from "./useMe";

type PeopleList = Schemas["PeopleList"];
const KEY = ["people"];

/** Who may come in, and what each may do in which show. */
export function PeoplePage() {
  const queries = useQueryClient();
  const me = useMe().data;
  const query = useQuery({ queryKey: KEY, queryFn: () => answer(api.GET("/api/people")), refetchInterval: 15000 });
  const [invited, setInvited] = useState<{ name: string; path: string } | null>(null);
  useTitle("People");
  const taken = useTaking<PeopleList>(KEY, (list) => {
    queries.invalidateQueries({ queryKey: ["changes"] });
    if (list.invitation) setInvited({ name: list.invited ?? "", path: list.invitation });
  });
  return (
    <div className="flex h-full flex-col">
      <TopBar>
        <span className="text-quiet">People</span>
      </TopBar>
      <div className="flex min-h-0 flex-1">
        <main className="min-w-0 flex-1 overflow-y-auto p-6" aria-label="People">
          {query.error && (
            <p role="alert" className="mb-3 text-coral">
              {query.error.message}
            </p>
          )}
          <div className="mb-4 flex items-center gap-3">
            <h2 className="flex-1 font-semibold text-[15px]">People</h2>
            {me?.admin && (
              <NameForm
                label="Name of somebody new"
                placeholder="name of somebody new"
                action="Invite"
                look="primary"
                width="w-56"
                onName={(name) => taken(answer(api.POST("/api/people", { body: { name } })))}
              />
            )}
          </div>
          {invited && (
            <SecretLine
              label={`Address for ${invited.name}`}
              told={`Send this address to ${invited.name}: it opens once, within a week, and lets them choose their password. It is shown this once.`}
              secret={window.location.origin + invited.path}
            />
          )}
          <ul className="flex flex-col gap-1.5">
            {query.data?.people.map((person) => (
              <PersonRow
                key={person.id}
                person={person}
                shows={query.data.shows}
                isMe={person.id === me?.id}
                byAdmin={Boolean(me?.admin)}
                taken={taken}
              />
            ))}
          </ul>
        </main>
        <aside
          className="flex w-[320px] shrink-0 flex-col gap-6 overflow-y-auto border-l border-line bg-panel p-4"
          aria-label="Roles and changes"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: nothing in it can be focused, and it scrolls
          tabIndex={0}
        >
          <section>
            <h2 className="mb-2 font-semibold text-[15px]">Roles in a show</h2>
            <dl className="flex flex-col gap-1.5">
              {ROLES.map((role) => (
                <div key={role} className="flex gap-2">
                  <dt className="w-16 shrink-0 font-semibold">{role}</dt>
                  <dd className="text-quiet">{MEANINGS[role]}</dd>
                </div>
              ))}
            </dl>
          </section>
          {me?.admin && <ChangeList />}
        </aside>
      </div>
    </div>
  );
}
