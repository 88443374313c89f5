import { useState } from "react";
import { useNavigate } from "react-router";
import { api } from "../api/client";
import { Menu } from "../controls/Menu";
import { AccountDialog } from "./AccountDialog";
import { maySomewhere, useMe } from "./useMe";

/** Who is signed in, and what is theirs: their account, the people of the server, and the way out. */
export function PersonMenu() {
  const me = useMe().data;
  const navigate = useNavigate();
  const [account, setAccount] = useState(false);
  if (!me) return null;
  const initials = me.name
    .split(/\s+/)
    .map((word) => [...word][0])
    .join("")
    .slice(0, 2)
    .toUpperCase();
  const signOut = async () => {
    await api.POST("/api/sign-out");
    window.location.assign("/");
  };
  return (
    <>
      <Menu
        trigger={
          <button
            type="button"
            aria-label={`Signed in as ${me.name}`}
            title={`signed in as ${me.name}`}
            className="ml-auto grid h-[26px] w-[26px] shrink-0 place-items-center rounded-sm border border-line text-[10.5px] text-quiet hover:bg-control hover:text-text"
          >
            {initials}
          </button>
        }
        sections={[
          {
            title: me.name,
            choices: [{ key: "account", label: "Password and tokens…", onPick: () => setAccount(true) }],
          },
          {
            choices: maySomewhere(me, "own")
              ? [{ key: "people", label: "People and roles", onPick: () => navigate("/people") }]
              : [],
          },
          { choices: [{ key: "out", label: "Sign out", onPick: signOut }] },
        ]}
      />
      {account && <AccountDialog me={me} onClose={() => setAccount(false)} />}
    </>
  );
}
