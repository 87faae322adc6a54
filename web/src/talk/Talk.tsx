import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { api, body, type ReviewShape, type Shapes } from "../api/client";
import { testOf } from "../api/lookup";
import { talkQuery } from "../api/queries";
import { useReview } from "../api/review";
import { Button } from "../design/Button";
import { useAct } from "../design/useAct";
import { Failed, Loading } from "../shell/States";
import { Comment } from "./Comment";
import { Composer } from "./Composer";
import type { Thing } from "./talking";

type ThreadShape = Shapes["ThreadShape"];

interface Props {
  /** What a new thread is about; null for the review as a whole. */
  thing: Thing | null;
  onClose: () => void;
}

// What is in sight for so long counts as read.
const READ_AFTER_MS = 1500;

/** The talk of a review beside its sheet: threads about it and the things in it. */
export function Talk({ thing, onClose }: Props) {
  const review = useReview();
  const act = useAct();
  const query = useQuery(talkQuery(review.id));
  const [closed, setClosed] = useState(false);
  const [about, setAbout] = useState(thing);
  const last = query.data?.last ?? 0;
  const unread = query.data?.unread ?? 0;
  useEffect(() => {
    if (!unread) return undefined;
    const timer = window.setTimeout(() => {
      void act(
        async () =>
          api.PUT("/api/reviews/{review}/talk/seen", {
            params: { path: { review: review.id } },
            body: { upto: last },
          }),
        { made: "talk" },
      );
    }, READ_AFTER_MS);
    return () => window.clearTimeout(timer);
  }, [act, last, review.id, unread]);
  const send = async (text: string, thread?: number) => {
    const of: Thing = about ?? { about: "review", words: "" };
    const done = await act(
      async () =>
        body(
          await api.POST("/api/reviews/{review}/talk", {
            params: { path: { review: review.id } },
            body: thread
              ? { text, thread, about: "review", key: "" }
              : {
                  text,
                  about: of.about,
                  key: of.key ?? "",
                  ...(of.test ? { test: of.test, column: of.column ?? null } : {}),
                  ...(of.owner ? { owner: of.owner } : {}),
                },
          }),
        ),
      { made: "talk" },
    );
    return Boolean(done);
  };
  const shown = (query.data?.threads ?? []).filter((one) => closed || one.closed_at === null);
  const away = (query.data?.threads.length ?? 0) - (query.data?.open ?? 0);
  return (
    <aside
      aria-label="Talk"
      onKeyDown={(event) => event.key === "Escape" && onClose()}
      className="fixed inset-y-0 right-0 z-30 flex w-[380px] max-w-full flex-col border-l-2 border-ink bg-paper print:hidden"
    >
      <div className="flex items-baseline gap-3 border-b border-line px-4 py-3">
        <h2 className="font-serif text-lead font-semibold">Talk</h2>
        <span className="grow" />
        {away > 0 && (
          <Button kind="link" className="text-note" aria-pressed={closed} onClick={() => setClosed(!closed)}>
            {closed ? "Only open ones" : `${away} closed`}
          </Button>
        )}
        <button type="button" aria-label="Close the talk" className="px-1.5 hover:bg-band" onClick={onClose}>
          ×
        </button>
      </div>
      <div className="min-h-0 grow overflow-auto px-4 py-2 text-note">
        <section aria-label="A new comment" className="mb-3">
          <p className="mb-1 text-small text-quiet">
            About {about ? <strong className="text-ink">{about.words}</strong> : "the review as a whole"}
            {about && (
              <>
                {" "}
                <Button kind="link" onClick={() => setAbout(null)}>
                  rather the whole review
                </Button>
              </>
            )}
          </p>
          <Composer
            label="A new comment"
            people={query.data?.people ?? []}
            onSend={(text) => send(text)}
            autoFocus={thing !== null}
          />
        </section>
        {query.isError && <Failed error={query.error} again={() => void query.refetch()} />}
        {query.isPending && <Loading />}
        {query.data && !shown.length && (
          <p className="text-quiet">
            Nothing was said yet. Comments stay with the review, also when their thing goes.
          </p>
        )}
        {shown.map((thread) => (
          <Thread
            key={thread.id}
            thread={thread}
            people={query.data?.people ?? []}
            onAnswer={(text) => send(text, thread.id)}
          />
        ))}
      </div>
    </aside>
  );
}

interface ThreadProps {
  thread: ThreadShape;
  people: Shapes["PersonShape"][];
  onAnswer: (text: string) => Promise<boolean>;
}

function Thread({ thread, people, onAnswer }: ThreadProps) {
  const review = useReview();
  const act = useAct();
  const [answering, setAnswering] = useState(false);
  const path = { comment: thread.id };
  const close = (closed: boolean) =>
    void act(
      async () =>
        closed
          ? api.PUT("/api/comments/{comment}/closed", { params: { path } })
          : api.DELETE("/api/comments/{comment}/closed", { params: { path } }),
      {
        said: closed ? "The thread is closed." : "The thread is open again.",
        undo: async () =>
          closed
            ? api.DELETE("/api/comments/{comment}/closed", { params: { path } })
            : api.PUT("/api/comments/{comment}/closed", { params: { path } }),
        made: "talk",
      },
    );
  const address = addressOf(review, thread);
  return (
    <section
      aria-label={`Thread about ${thread.words || "the review"}`}
      className="border-t border-line py-2"
    >
      {thread.words && (
        <p className="text-small">
          {address && !thread.gone ? (
            <Link to={address} className="underline decoration-line">
              {thread.words}
            </Link>
          ) : (
            <span className="text-quiet">{thread.words}</span>
          )}
          {thread.gone && <span className="text-quiet"> (no longer there)</span>}
        </p>
      )}
      <ul>
        {thread.comments.map((one) => (
          <Comment key={one.id} comment={one} people={people} />
        ))}
      </ul>
      {answering ? (
        <Composer
          label="An answer"
          people={people}
          onSend={async (text) => {
            const sent = await onAnswer(text);
            if (sent) setAnswering(false);
            return sent;
          }}
          onClose={() => setAnswering(false)}
        />
      ) : (
        <p className="flex gap-3 text-small">
          <Button kind="link" onClick={() => setAnswering(true)}>
            Answer
          </Button>
          <Button kind="link" onClick={() => close(thread.closed_at === null)}>
            {thread.closed_at === null ? "Close the thread" : "Open it again"}
          </Button>
          {thread.closed_by && <span className="text-quiet">closed by {thread.closed_by}</span>}
        </p>
      )}
    </section>
  );
}

/** Where the thing of a thread stands. */
export function addressOf(
  review: ReviewShape,
  thread: Pick<ThreadShape, "about" | "test" | "column" | "key">,
): string | null {
  const at = `/reviews/${review.id}`;
  if (thread.about === "finding") return `${at}/findings?finding=${encodeURIComponent(thread.key)}`;
  if (thread.about === "sentence") return `${at}/verdict`;
  if (thread.test !== null && thread.column !== null) {
    const metric = testOf(review, thread.test)?.shown[0];
    return metric ? `${at}/matrix?cells=${thread.test}.${metric}.${thread.column}` : null;
  }
  return null;
}
