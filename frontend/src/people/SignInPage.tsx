import { useState } from "react";
import { useSearchParams } from "react-router";
import { answer, api } from "../api/client";
import { useTitle } from "../controls/useTitle";
import { DoorField, DoorFrame } from "./DoorFrame";
import { type Me, useSignedIn } from "./useMe";

/** By name and password; `before`: who was signed in until now, whose work stays behind this. */
export function SignInPage({ before }: { before: Me | null }) {
  const [search] = useSearchParams();
  const [name, setName] = useState(before?.name ?? "");
  const [password, setPassword] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const signedIn = useSignedIn(before);
  useTitle("Sign in");
  const used = search.get("entry") === "used" && !before;
  const signIn = async () => {
    setBusy(true);
    try {
      signedIn(await answer(api.POST("/api/sign-in", { body: { name, password } })));
    } catch (error) {
      setProblem((error as Error).message);
      setPassword("");
    } finally {
      setBusy(false);
    }
  };
  return (
    <DoorFrame
      title={before ? "You were signed out" : "Sign in"}
      told={
        before ? (
          "Sign in to go on where you were; nothing that was saved is lost."
        ) : used ? (
          <>
            That address was opened before, or is older than a day. On the server's computer, <code>bin/start</code>{" "}
            prints a new one.
          </>
        ) : (
          <>
            With the name and password that you were invited with. Whoever started the server comes in by the address
            that <code>bin/start</code> prints.
          </>
        )
      }
      problem={problem}
      action="Sign in"
      ready={!busy && name.trim() !== "" && password !== ""}
      onAction={signIn}
      over={before !== null}
    >
      <DoorField label="Name" value={name} onValue={setName} complete="username" first={!before} />
      <DoorField
        label="Password"
        kind="password"
        value={password}
        onValue={setPassword}
        complete="current-password"
        first={before !== null}
      />
    </DoorFrame>
  );
}
