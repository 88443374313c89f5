import { type ReactNode, useEffect, useState } from "react";
import { useLocation } from "react-router";
import { Button } from "../controls/Button";
import { sentence } from "../controls/sentence";
import { JoinPage } from "./JoinPage";
import { SignInPage } from "./SignInPage";
import { type Me, useMe, useSigningOut } from "./useMe";

/** In front of every view: who has not signed in sees how to. Where a session ends meanwhile, what was open stays behind it. */
export function Door({ children }: { children: ReactNode }) {
  const { pathname } = useLocation();
  const me = useMe();
  const [known, setKnown] = useState<Me | null>(null);
  useSigningOut();
  useEffect(() => {
    if (me.data) setKnown(me.data);
  }, [me.data]);
  const invitation = /^\/join\/(.+)$/.exec(pathname)?.[1];
  if (invitation) return <JoinPage invitation={invitation} />;
  if (me.data === undefined) {
    return me.error ? (
      <main className="flex items-center gap-3 p-8 text-coral" role="alert">
        {sentence(me.error.message)}.<Button onClick={() => me.refetch()}>Try again</Button>
      </main>
    ) : null;
  }
  return (
    <>
      {(me.data || known) && (
        // what is behind the door cannot be reached before somebody has signed in again
        <div className="h-full" inert={me.data === null}>
          {children}
        </div>
      )}
      {me.data === null && <SignInPage before={known} />}
    </>
  );
}
