import { Check, Ellipsis, RotateCcw } from "lucide-react";
import { useState } from "react";
import { Button, IconButton } from "../../controls/Button";
import { type Choice, Menu } from "../../controls/Menu";
import { ago } from "../../controls/time";
import { useSessionParts } from "../session";
import { type Answer, type Comment, isOpen, useCommenting } from "./useComments";
import { Words } from "./Words";

type Props = { comment: Comment; mayResolve: boolean; mayDelete: boolean };

/** A comment with its answers: who said it when, of what, and whether it is still open. */
export function CommentRow({ comment, mayResolve, mayDelete }: Props) {
  const { openComment, shot, set } = useSessionParts("openComment", "shot", "set");
  const { answerTo, resolve } = useCommenting();
  const [answering, setAnswering] = useState(false);
  const open = isOpen(comment);
  const chosen = openComment === comment.id;
  const go = () =>
    set({ openComment: comment.id, playing: false, ...(comment.frame === null ? {} : { frame: comment.frame }) });
  return (
    <li
      aria-label={`Comment ${comment.number}`}
      data-open={open}
      className={`border-b border-line px-3 py-2 ${chosen ? "bg-control/60" : ""} ${open ? "" : "text-quiet"}`}
    >
      <div className="flex items-center gap-1.5">
        <button
          type="button"
          onClick={go}
          title={comment.frame === null ? "of the whole shot" : "go to the frame it is about"}
          className="flex min-w-0 flex-1 items-baseline gap-1.5 rounded-sm text-left"
        >
          <span className={`value w-4 shrink-0 text-right ${open ? "text-verdigris" : ""}`}>{comment.number}</span>
          <b className="truncate">{comment.person ?? "somebody"}</b>
          <span className="value shrink-0 text-quiet">
            {comment.frame === null ? "shot" : `${comment.frame}${comment.point ? ", a point" : ""}`}
          </span>
        </button>
        {(comment.mine || mayResolve) &&
          (open ? (
            <IconButton
              label={`Resolve comment ${comment.number}`}
              look="ghost"
              className="h-[22px]! w-[22px]!"
              onClick={() => resolve(comment.id, true)}
            >
              <Check size={13} />
            </IconButton>
          ) : (
            <IconButton
              label={`Open comment ${comment.number} again`}
              look="ghost"
              className="h-[22px]! w-[22px]!"
              onClick={() => resolve(comment.id, false)}
            >
              <RotateCcw size={12} />
            </IconButton>
          ))}
      </div>
      <Said
        said={comment}
        mayDelete={mayDelete}
        shownRevision={shot?.revision ?? 0}
        what={`comment ${comment.number}`}
      />
      {comment.answers.map((one) => (
        <div key={one.id} className="mt-1.5 ml-[22px] border-l border-line pl-2">
          <b>{one.person ?? "somebody"}</b>
          <Said said={one} mayDelete={mayDelete} shownRevision={shot?.revision ?? 0} what="the answer" flat />
        </div>
      ))}
      {!open && (
        <p className="mt-1 ml-[22px]">
          resolved{comment.resolved_by && ` by ${comment.resolved_by}`}{" "}
          <span className="value">
            in revision {comment.resolved_in} · {ago(comment.resolved_at ?? comment.created_at)}
          </span>
        </p>
      )}
      {answering ? (
        <div className="mt-2 ml-[22px]">
          <Words
            label={`Answer to comment ${comment.number}`}
            action="Answer"
            autoFocus
            onGiveUp={() => setAnswering(false)}
            onSay={async (text) => {
              const done = await answerTo(comment.id, text);
              if (done) setAnswering(false);
              return done;
            }}
          />
        </div>
      ) : (
        <Button look="ghost" className="mt-1 ml-[14px] h-[22px]! px-2!" onClick={() => setAnswering(true)}>
          Answer
        </Button>
      )}
    </li>
  );
}

type SaidProps = {
  said: Answer;
  mayDelete: boolean;
  shownRevision: number;
  what: string;
  flat?: boolean;
};

/** The words, when they were said and of which revision; changed by whoever said them. */
function Said({ said, mayDelete, shownRevision, what, flat }: SaidProps) {
  const { reword, remove } = useCommenting();
  const [changing, setChanging] = useState(false);
  const choices: Choice[] = [
    ...(said.mine ? [{ key: "change", label: "In other words…", onPick: () => setChanging(true) }] : []),
    ...(said.mine || mayDelete
      ? [{ key: "delete", label: "Delete it", danger: true, onPick: () => remove(said.id) }]
      : []),
  ];
  if (changing)
    return (
      <div className="mt-1">
        <Words
          label={`Other words for ${what}`}
          action="Change it"
          first={said.text}
          autoFocus
          onGiveUp={() => setChanging(false)}
          onSay={async (text) => {
            const done = await reword(said.id, text);
            if (done) setChanging(false);
            return done;
          }}
        />
      </div>
    );
  return (
    <div className={flat ? "" : "ml-[22px]"}>
      <p className="mt-0.5 whitespace-pre-wrap break-words">{said.text}</p>
      <p className="flex items-center gap-1 text-quiet">
        <span className="value">
          {ago(said.created_at)}
          {said.changed_at && ", changed"}
          {said.revision !== shownRevision && ` · revision ${said.revision}`}
        </span>
        {choices.length > 0 && (
          <Menu
            trigger={
              <IconButton label={`More about ${what}`} look="ghost" className="h-[18px]! w-[22px]!">
                <Ellipsis size={13} />
              </IconButton>
            }
            sections={[{ choices }]}
          />
        )}
      </p>
    </div>
  );
}
