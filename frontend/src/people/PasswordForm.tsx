import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { answer, api } from "../api/client";
import { Button } from "../controls/Button";
import { report, told } from "../controls/notices";
import { DoorField } from "./DoorFrame";
import { SHORTEST_PASSWORD } from "./passwords";
import type { Me } from "./useMe";

/** Another password, or the first one. */
export function PasswordForm({ me }: { me: Me }) {
  const queries = useQueryClient();
  const [old, setOld] = useState("");
  const [wanted, setWanted] = useState("");
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    try {
      queries.setQueryData(["me"], await answer(api.POST("/api/password", { body: { old, new: wanted } })));
      setOld("");
      setWanted("");
      told("This password holds from now on; other browsers were signed out");
    } catch (error) {
      report(error);
    }
  };
  return (
    <form onSubmit={submit} aria-label="Password">
      <h2 className="mb-1 font-semibold">Password</h2>
      <p className="mb-3 text-quiet">
        {me.has_password
          ? "Another one signs out all other browsers. "
          : "You have none yet: you came in by the address of bin/start. With one you can sign in from anywhere that reaches this server. "}
        At least {SHORTEST_PASSWORD} characters; a few words do well.
      </p>
      <div className="flex items-end gap-3">
        {me.has_password && (
          <div className="flex-1">
            <DoorField label="Password now" kind="password" value={old} onValue={setOld} complete="current-password" />
          </div>
        )}
        <div className="flex-1">
          <DoorField label="New password" kind="password" value={wanted} onValue={setWanted} complete="new-password" />
        </div>
        <Button type="submit" className="h-8!" disabled={!wanted || (me.has_password && !old)}>
          Set it
        </Button>
      </div>
    </form>
  );
}
