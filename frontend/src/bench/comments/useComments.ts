import { useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../api/client";
import { report } from "../../controls/notices";
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

/** What can be done with comments; every answer is the whole list as it is afterwards. True where it was done. */
export function useCommenting() {
  const queries = useQueryClient();
  const taken = async (shotId: number, call: Promise<List>): Promise<boolean> => {
    try {
      queries.setQueryData(keyOf(shotId), await call);
      queries.invalidateQueries({ queryKey: ["shows"] });
      return true;
    } catch (error) {
      report(error);
      return false;
    }
  };
  const here = () => {
    const { shot } = useSession.getState();
    return { shot_id: shot?.id ?? 0, revision: shot?.revision ?? 0 };
  };
  const about = (comment_id: number) => ({ params: { path: { shot_id: here().shot_id, comment_id } } });
  return {
    say: (text: string, frame: number | null, point: Point | null) => {
      const { shot_id, revision } = here();
      const body = { text, revision, frame, point };
      return taken(shot_id, answer(api.POST("/api/shots/{shot_id}/comments", { params: { path: { shot_id } }, body })));
    },
    answerTo: (id: number, text: string) => {
      const { shot_id, revision } = here();
      const body = { text, revision };
      return taken(
        shot_id,
        answer(api.POST("/api/shots/{shot_id}/comments/{comment_id}/answers", { ...about(id), body })),
      );
    },
    resolve: (id: number, resolved: boolean) =>
      taken(
        here().shot_id,
        answer(api.POST("/api/shots/{shot_id}/comments/{comment_id}/resolved", { ...about(id), body: { resolved } })),
      ),
    reword: (id: number, text: string) =>
      taken(
        here().shot_id,
        answer(api.POST("/api/shots/{shot_id}/comments/{comment_id}/text", { ...about(id), body: { text } })),
      ),
    remove: (id: number) =>
      taken(here().shot_id, answer(api.DELETE("/api/shots/{shot_id}/comments/{comment_id}", about(id)))),
  };
}
