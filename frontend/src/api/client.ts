import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type ShotState = Schemas["ShotState"];
export type UnderCursor = Schemas["UnderCursor"];
export type Contents = Schemas["Contents"];
export type RenderData = Schemas["RenderData"];
export type Probe = Schemas["Probe"];

export const api = createClient<paths>({ baseUrl: "/" });

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
