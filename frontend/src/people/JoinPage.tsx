import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../api/client";
import { useTitle } from "../controls/useTitle";
import { DoorField, DoorFrame } from "./DoorFrame";
import { SHORTEST_PASSWORD } from "./passwords";
import { useSignedIn } from "./useMe";

/** Somebody who was invited chooses a password, and is signed in. */
export function JoinPage({ invitation }: { invitation: string }) {
  const navigate = useNavigate();
  const invited = useQuery({
    queryKey: ["invitation", invitation],
    queryFn: () => answer(api.GET("/api/invitation", { params: { query: { invitation } } })),
    retry: false,
  });
  const [password, setPassword] = useState("");
  const [again, setAgain] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const signedIn = useSignedIn(null);
  useTitle("Welcome");
  const join = async () => {
    if (password !== again) {
      setProblem("the two passwords differ; type them again");
      return;
    }
    try {
      const me = await answer(api.POST("/api/join", { body: { invitation, password } }));
      navigate("/", { replace: true });
      signedIn(me);
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <DoorFrame
      title={invited.data ? `Welcome, ${invited.data.name}` : "Welcome"}
      told={`Choose a password of at least ${SHORTEST_PASSWORD} characters; a few words do well. With your name, it lets you in from now on.`}
      problem={problem ?? invited.error?.message ?? null}
      action="Come in"
      ready={invited.data !== undefined && password !== "" && again !== ""}
      onAction={join}
    >
      <DoorField
        label="Password"
        kind="password"
        value={password}
        onValue={setPassword}
        complete="new-password"
        first
      />
      <DoorField label="The same again" kind="password" value={again} onValue={setAgain} complete="new-password" />
    </DoorFrame>
  );
}
