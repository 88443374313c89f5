import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { answer, api, Refused, type Schemas, whenSignedOut } from "../api/client";

export type Me = Schemas["Me"];
export type Role = NonNullable<Schemas["RoleOrder"]["role"]>;

export const ROLES: Role[] = ["look", "work", "hand off", "own"];
const ME = ["me"];
const STAY_SIGNED_IN_MS = 600_000;

/** Whether a role, or none, holds another. */
export const includes = (role: Role | undefined, wanted: Role): boolean =>
  role !== undefined && ROLES.indexOf(role) >= ROLES.indexOf(wanted);

/** Whether somebody may do something in any show: an administrator may everything. */
export const maySomewhere = (me: Me | null | undefined, wanted: Role): boolean =>
  Boolean(me && (me.admin || Object.values(me.roles).some((role) => includes(role, wanted))));

/** Who is signed in; null where nobody is. */
export const useMe = () =>
  useQuery<Me | null>({
    queryKey: ME,
    queryFn: async () => {
      try {
        return await answer(api.GET("/api/me"));
      } catch (error) {
        if (error instanceof Refused && error.code === "sign-in") return null;
        throw error;
      }
    },
    staleTime: STAY_SIGNED_IN_MS,
    refetchInterval: STAY_SIGNED_IN_MS,
  });

/** Notices when an answer says that nobody is signed in any more. */
export function useSigningOut(): void {
  const queries = useQueryClient();
  useEffect(() => whenSignedOut(() => queries.setQueryData(ME, null)), [queries]);
}

/** What follows when somebody has signed in: another person begins anew, the same one goes on. */
export function useSignedIn(before: Me | null): (me: Me) => void {
  const queries = useQueryClient();
  return (me) => {
    if (before && before.id !== me.id) window.location.assign("/");
    queries.setQueryData(ME, me);
    queries.invalidateQueries({ predicate: (query) => query.queryKey[0] !== ME[0] });
  };
}
