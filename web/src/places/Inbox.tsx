import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, body } from "../api/client";
import { inboxQuery } from "../api/queries";
import { Button } from "../design/Button";
import { useAct } from "../design/useAct";
import { When } from "../design/When";
import { Failed, Loading } from "../shell/States";
import { FromReaders } from "./inbox/FromReaders";

/** Comments that name one, and answers in threads that one takes part in. */
export function Inbox() {
  const query = useQuery(inboxQuery);
  const act = useAct();
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  if (!query.data) return <Loading />;
  const { notices, unread } = query.data;
  const read = (ids: number[]) =>
    void act(async () => body(await api.PUT("/api/inbox", { body: { notices: ids } })), { made: "talk" });
  return (
    <main className="mx-auto w-full max-w-[820px] p-5">
      <div className="mb-3 flex items-baseline gap-4">
        <h1 className="font-serif text-title font-semibold">Inbox</h1>
        <span className="text-note text-quiet">{unread ? `${unread} not read` : "Everything is read."}</span>
        {unread > 0 && (
          <Button kind="link" className="text-note" onClick={() => read([])}>
            Mark all as read
          </Button>
        )}
      </div>
      {!notices.length && (
        <p className="text-quiet">
          Nothing yet. Comments that name you with @, and answers in your threads, come here.
        </p>
      )}
      <ul className="border-t-2 border-ink">
        {notices.map((one) => (
          <li
            key={one.id}
            className={`border-b border-line px-2 py-2 ${one.read ? "" : "border-l-3 border-l-mark bg-sheet"}`}
          >
            <p className="text-note text-quiet">
              <strong className="text-ink">{one.by}</strong>{" "}
              {one.named ? "names you" : "answers in a thread of yours"}
              {one.words && `, about ${one.words}`}, <When at={one.at} />
              {!one.read && <span className="text-mark"> · new</span>}
            </p>
            <p className="my-0.5 break-words whitespace-pre-wrap">{one.text}</p>
            <p className="flex gap-3 text-note">
              <Link
                to={`/reviews/${one.review}/verdict?talk=${one.thread}`}
                className="underline"
                onClick={() => !one.read && read([one.id])}
              >
                {one.question}
              </Link>
              {!one.read && (
                <Button kind="link" onClick={() => read([one.id])}>
                  Read
                </Button>
              )}
            </p>
          </li>
        ))}
      </ul>
      <FromReaders />
    </main>
  );
}
