import { useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../api/client";
import { useTaking } from "../../api/taking";
import { useSession } from "../session";

export type Point = Schemas["PointData"];
export type Comment = Schemas["CommentData"] & { number: number };
export type Answer = Schemas["AnswerData"];
type List = Schemas["CommentList"];

const FOLLOW_MS = 8000;
const keyOf = (shotId: number) => ["comments", shotId];

/** The comments on the open shot, numbered in the order in which they were said. */
export function useComments() {
  const shotId = useSession((s) => s.shot?.id ?? 0);
  const query = useQuery({
    queryKey: keyOf(shotId),
    queryFn: () => answer(api.GET("/api/shots/{shot_id}/comments", { params: { path: { shot_id: shotId } } })),
    enabled: shotId > 0,
    refetchInterval: FOLLOW_MS,
  });
  const comments: Comment[] = (query.data?.comments ?? []).map((one, index) => ({ ...one, number: index + 1 }));
  return { comments, mayResolve: query.data?.may_resolve ?? false, mayDelete: query.data?.may_delete ?? false };
}

/** Whether a comment still wants something to be done. */
export const isOpen = (comment: Comment): boolean => comment.resolved_at === null;

/** What can be done with comments. True where it was done. */
export function useCommenting() {
  const queries = useQueryClient();
  const { id: shot_id = 0, revision = 0 } = useSession((s) => s.shot) ?? {};
  const taken = useTaking<List>(keyOf(shot_id), () => queries.invalidateQueries({ queryKey: ["shows"] }));
  const about = (comment_id: number) => ({ params: { path: { shot_id, comment_id } } });
  const place = "/api/shots/{shot_id}/comments";
  const one = `${place}/{comment_id}` as const;
  return {
    say: (text: string, frame: number | null, point: Point | null) =>
      taken(answer(api.POST(place, { params: { path: { shot_id } }, body: { text, revision, frame, point } }))),
    answerTo: (id: number, text: string) =>
      taken(answer(api.POST(`${one}/answers`, { ...about(id), body: { text, revision } }))),
    resolve: (id: number, resolved: boolean) =>
      taken(answer(api.POST(`${one}/resolved`, { ...about(id), body: { resolved } }))),
    reword: (id: number, text: string) => taken(answer(api.POST(`${one}/text`, { ...about(id), body: { text } }))),
    remove: (id: number) => taken(answer(api.DELETE(one, about(id)))),
  };
}
