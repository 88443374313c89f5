import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type ShotState = Schemas["ShotState"];
export type UnderCursor = Schemas["UnderCursor"];
export type Contents = Schemas["Contents"];
export type RenderData = Schemas["RenderData"];
export type Probe = Schemas["Probe"];

const TRIES = 12;
const signedOut = new Set<() => void>();

/** Calls back whenever an answer says that nobody is signed in (any more); returns how to stop that. */
export function whenSignedOut(act: () => void): () => void {
  signedOut.add(act);
  return () => signedOut.delete(act);
}

/** What the server has no room for at the moment, or what it could not begin without its database, is asked for again. */
export async function patiently(what: string | Request, how?: RequestInit): Promise<Response> {
  const signal = how?.signal ?? (typeof what === "string" ? undefined : what.signal);
  for (let tries = 1; ; tries++) {
    const response = await fetch(typeof what === "string" ? what : what.clone(), how);
    if (response.status === 401) for (const act of signedOut) act();
    const seconds = Number(response.headers.get("Retry-After"));
    if (response.status !== 503 || !seconds || tries === TRIES) return response;
    await new Promise((done) => setTimeout(done, seconds * 1000 * (0.5 + Math.random())));
    signal?.throwIfAborted();
  }
}

export const api = createClient<paths>({
  baseUrl: "/",
  fetch: (request) => patiently(request),
});

/** What the server said when it refused; `detail` tells a machine more. */
export class Refused extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly detail: Record<string, unknown> = {},
  ) {
    super(message);
  }
}

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** The data of an answer, or a `Refused` with the server's one clear line. */
export async function answer<T>(call: Promise<Answer<T>>): Promise<T> {
  let result: Answer<T>;
  try {
    result = await call;
  } catch {
    throw new Refused("offline", "the server does not answer; your last saved work is safe, start it again");
  }
  if (result.data !== undefined && result.response.ok) return result.data;
  throw refusedFrom(result.error);
}

export function refusedFrom(body: unknown): Refused {
  const told = (body as { error?: { code?: string; message?: string; detail?: Record<string, unknown> } } | undefined)
    ?.error;
  return new Refused(told?.code ?? "unknown", told?.message ?? "the server gave no reason", told?.detail);
}
