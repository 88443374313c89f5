import { useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useState } from "react";
import { answer, api, type Schemas } from "../api/client";
import { useTaking } from "../api/taking";
import { IconButton } from "../controls/Button";
import { NameForm } from "../controls/NameForm";
import { ago } from "../controls/time";
import { SecretLine } from "./SecretLine";

const KEY = ["tokens"];

/** Tokens for programs, which may do what their person may. */
export function TokenList() {
  const query = useQuery({ queryKey: KEY, queryFn: () => answer(api.GET("/api/tokens")) });
  const [made, setMade] = useState<string | null>(null);
  const taken = useTaking<Schemas["TokenList"]>(KEY, (list) => setMade(list.made ?? null));
  const end = (token_id: number) =>
    taken(answer(api.DELETE("/api/tokens/{token_id}", { params: { path: { token_id } } })));
  return (
    <section aria-label="Tokens">
      <h2 className="mb-1 font-semibold">Tokens</h2>
      <p className="mb-3 text-quiet">
        For <code className="value">bin/umbrax remote</code> and other programs, which send it as{" "}
        <code className="value">Authorization: Bearer TOKEN</code>: a token may do what you may, until you take it back.
      </p>
      <div className="mb-3">
        <NameForm
          label="What the new token is for"
          placeholder="what it is for, such as nightly renders"
          action="Make a token"
          width="flex-1"
          onName={(name) => taken(answer(api.POST("/api/tokens", { body: { name } })))}
        />
      </div>
      {made && (
        <>
          <SecretLine
            label="New token"
            told="It is shown this once; keep it where only you can read it."
            secret={made}
          />
          <p className="mb-3 text-quiet">
            On the command line it goes into <code className="value">UMBRAX_TOKEN</code>, beside{" "}
            <code className="value">UMBRAX_SERVER={window.location.origin}</code>.
          </p>
        </>
      )}
      <ul className="flex flex-col">
        {query.data?.tokens.toReversed().map((token) => (
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
    </section>
  );
}
