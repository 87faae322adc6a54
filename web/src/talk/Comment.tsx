import { useState } from "react";
import { api, body, type Shapes } from "../api/client";
import { useSession } from "../api/session";
import { Button } from "../design/Button";
import { useAct } from "../design/useAct";
import { When } from "../design/When";
import { Composer } from "./Composer";

type CommentShape = Shapes["CommentShape"];

/** A comment with its author; one's own can be changed. */
export function Comment({ comment, people }: { comment: CommentShape; people: Shapes["PersonShape"][] }) {
  const session = useSession();
  const act = useAct();
  const [editing, setEditing] = useState(false);
  const save = async (text: string) => {
    const done = await act(
      async () =>
        body(
          await api.PATCH("/api/comments/{comment}", {
            params: { path: { comment: comment.id } },
            body: { text },
          }),
        ),
      { made: "talk" },
    );
    if (done) setEditing(false);
    return Boolean(done);
  };
  return (
    <li className={`py-1.5 ${comment.unread ? "border-l-3 border-mark pl-2" : ""}`}>
      <p className="text-small text-quiet">
        <strong className="text-ink">{comment.by}</strong> <When at={comment.at} />
        {comment.edited_at && ", changed"}
        {comment.unread && <span className="text-mark"> new</span>}
        {comment.username === session.username && !editing && (
          <>
            {" "}
            <Button kind="link" onClick={() => setEditing(true)}>
              Change
            </Button>
          </>
        )}
      </p>
      {editing ? (
        <Composer
          label="Change the comment"
          people={people}
          initial={comment.text}
          onSend={save}
          onClose={() => setEditing(false)}
        />
      ) : (
        <p className="break-words whitespace-pre-wrap">
          {comment.text.split(/((?<![\w@])@\w[\w-]*(?:\.[\w-]+)*)/).map((piece, at) => {
            const person = piece.startsWith("@")
              ? people.find((one) => one.username === piece.slice(1))
              : undefined;
            return person ? (
              <strong key={at} title={person.display_name}>
                {piece}
              </strong>
            ) : (
              <span key={at}>{piece}</span>
            );
          })}
        </p>
      )}
    </li>
  );
}
