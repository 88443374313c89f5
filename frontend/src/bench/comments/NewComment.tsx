import { Segments } from "../../controls/Segments";
import { useSessionParts } from "../session";
import { useCommenting } from "./useComments";
import { Words } from "./Words";

type About = "shot" | "frame" | "point";

/** Says something of the shot, of the frame that is looked at, or of a point that is touched in it. */
export function NewComment() {
  const { frame, saying, picking, set } = useSessionParts("frame", "saying", "picking", "set");
  const { say } = useCommenting();
  const about = saying.about;
  const pick = (wanted: About) => {
    set({ saying: { about: wanted, point: null }, picking: null });
    if (wanted === "point") askForPoint();
  };
  const askForPoint = () =>
    set({
      playing: false,
      picking: {
        matte: null,
        what: "spot",
        words: "touch what it is about",
        take: ([x, y]) => set({ saying: { about: "point", point: { x: x + 0.5, y: y + 0.5 } } }),
      },
    });
  const missing = about === "point" && saying.point === null;
  return (
    <section className="flex flex-col gap-2 border-b border-line px-3 py-2.5" aria-label="Say something">
      <Segments
        label="What it is about"
        name="comment about"
        choices={[
          { value: "shot", text: "shot", title: "all of the shot" },
          { value: "frame", text: `frame ${frame}`, title: "the frame that is looked at" },
          { value: "point", text: "a point", title: "a point of this frame, touched in the picture" },
        ]}
        value={about}
        onPick={pick}
        plain
      />
      {about === "point" && (
        <p className="text-quiet">
          {saying.point ? (
            <>
              At{" "}
              <span className="value">
                {Math.floor(saying.point.x)}, {Math.floor(saying.point.y)}
              </span>{" "}
              of frame {frame}.{" "}
            </>
          ) : (
            "Touch what it is about in the picture. "
          )}
          {!picking && (
            <button type="button" className="text-verdigris underline" onClick={askForPoint}>
              {saying.point ? "Another point" : "Ask again"}
            </button>
          )}
        </p>
      )}
      <Words
        label="New comment"
        action="Say it"
        placeholder={missing ? "the point first, or the words" : "what should be different, or what is good"}
        onSay={async (text) => {
          if (missing) {
            askForPoint();
            return false;
          }
          const done = await say(text, about === "shot" ? null : frame, saying.point);
          if (done) set({ saying: { about: about === "point" ? "frame" : about, point: null } });
          return done;
        }}
      />
    </section>
  );
}
