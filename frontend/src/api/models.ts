import { useQuery } from "@tanstack/react-query";

/** A field of a parameter model as the server describes it in JSON Schema. */
export type Field = {
  title?: string;
  default?: unknown;
  unit?: string;
  soft?: [number, number];
  step?: number;
  formula?: string;
  widget?: string;
  /** Of a place: what there is where none is set. */
  without?: string;
  animated?: boolean;
  enum?: string[];
  const?: string;
  type?: string;
  minimum?: number;
  maximum?: number;
  oneOf?: Field[];
  anyOf?: Field[];
};

export type Model = { properties: Record<string, Field> };
export type TreatmentModel = {
  kind: string;
  title: string;
  stage: string;
  elements_only: boolean;
  summary: string;
  lays: boolean;
  /** How it is offered where the picture is touched. */
  touch: { wish: string; key: string; words: string } | null;
  /** What it can take from the shot's camera: its own name, and the camera's. */
  of_camera: Record<string, string>;
  schema: Model;
};

export type JoinModel = {
  kind: string;
  title: string;
  purpose: string;
  formula: string;
  outside: string;
  /** In what colours are blended if nothing is said; null where none are. */
  usual: "linear" | "display" | null;
  lays: boolean;
};

export type Models = {
  stages: string[];
  treatments: TreatmentModel[];
  joins: JoinModel[];
  purposes: string[];
  wishes: string[];
  /** Those that were rendered or filmed, which a seat check can be asked of, are `seated`. */
  pictures: { kind: string; title: string; seated: boolean; schema: Model }[];
  mattes: { kind: string; title: string; schema: Model }[];
  pass_kinds: string[];
  /** The primaries that can be worked in, and what turns their light into that of a display and back. */
  working: Record<string, { to_display: number[][]; from_display: number[][] }>;
  card: { opacity: Field; depth: Field };
  placing: Model;
  light: Model;
  timing: Model;
  text_box: Model;
  text_leader: Model;
  refine: Model;
};

/** Hard bounds of a number: they lie on the plain side of an animated field. */
export function boundsOf(field: Field): { low: number; high: number } {
  const stated = field.oneOf?.[0] ?? field;
  const plain = stated.anyOf?.find((one) => one.type !== "null") ?? stated;
  return { low: plain.minimum ?? Number.NEGATIVE_INFINITY, high: plain.maximum ?? Number.POSITIVE_INFINITY };
}

export function useModels(): Models | undefined {
  const query = useQuery({
    queryKey: ["models"],
    queryFn: async (): Promise<Models> => (await fetch("/api/models")).json(),
    staleTime: Number.POSITIVE_INFINITY,
  });
  return query.data;
}
