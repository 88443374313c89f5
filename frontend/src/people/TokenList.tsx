import { useQuery, useQueryClient } from "@tanstack/react-query";
import { X } from "lucide-react";
import { type FormEvent, useState } from "react";
import { answer, api } from "../api/client";
import { Button, IconButton } from "../controls/Button";
import { report } from "../controls/notices";
import { ago } from "../controls/time";
import { SecretLine } from "./SecretLine";

const KEY = ["tokens"];

/** Tokens for programs, which may do what their person may. */
export function TokenList() {
  const queries = useQueryClient();
  const query = useQuery({ queryKey: KEY, queryFn: () => answer(api.GET("/api/tokens")) });
  const [name, setName] = useState("");
  const [made, setMade] = useState<string | null>(null);
  const make = async (event: FormEvent) => {
    event.preventDefault();
    try {
      const list = await answer(api.POST("/api/tokens", { body: { name } }));
      queries.setQueryData(KEY, list);
      setMade(list.made ?? null);
      setName("");
    } catch (error) {
      report(error);
    }
  };
  const end = async (token_id: number) => {
    try {
      queries.setQueryData(KEY, await answer(api.DELETE("/api/tokens/{token_id}", { params: { path: { token_id } } })));
      setMade(null);
    } catch (error) {
      report(error);
    }
  };
  return (
    <section aria-label="Tokens">
      <h2 className="mb-1 font-semibold">Tokens</h2>
      <p className="mb-3 text-quiet">
        For programs and the command line: sent as <code className="value">Authorization: Bearer TOKEN</code>, a token
        may do what you may, until you take it back.
      </p>
      {made && (
        <SecretLine label="New token" told="It is shown this once; keep it where only you can read it." secret={made} />
      )}
      <ul className="mb-3 flex flex-col">
        {query.data?.tokens.map((token) => (
          <li key={token.id} className="flex items-center gap-3 border-b border-line py-1">
            <span className="min-w-0 flex-1 truncate">{token.name}</span>
            <span className="value text-quiet">
              made {ago(token.created_at)} · {token.used_at ? `used ${ago(token.used_at)}` : "never used"}
            </span>
            <IconButton label={`Take the token ${token.name} back`} look="ghost" onClick={() => end(token.id)}>
              <X size={13} />
            </IconButton>
          </li>
        ))}
      </ul>
      <form onSubmit={make} className="flex gap-2">
        <input
          aria-label="What the new token is for"
          placeholder="what it is for, such as nightly renders"
          maxLength={120}
          className="h-[26px] flex-1 rounded-sm bg-control px-2"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Button type="submit" disabled={!name.trim()}>
          Make a token
        </Button>
      </form>
    </section>
  );
}
