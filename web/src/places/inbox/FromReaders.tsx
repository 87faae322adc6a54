import { useQuery } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { api, body, type Shapes } from "../../api/client";
import { messagesQuery } from "../../api/queries";
import { useMay } from "../../api/session";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { When } from "../../design/When";
import { Failed } from "../../shell/States";

type Message = Shapes["MessageShape"];

const STATES: Record<string, string> = {
  waiting: "waits to be let through",
  shown: "shown under the record",
  refused: "refused",
};

/** What readers of records have asked and sent; nothing of it is shown before somebody has let it through. */
export function FromReaders() {
  const query = useQuery(messagesQuery);
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const found = query.data?.messages ?? [];
  return (
    <section aria-label="From readers" className="mt-8">
      <div className="mb-2 flex items-baseline gap-4">
        <h2 className="font-serif text-lead font-semibold">From readers</h2>
        <span className="text-note text-quiet">
          {query.data?.waiting ? `${query.data.waiting} waiting` : "Nothing waits."}
        </span>
      </div>
      <ul className="border-t-2 border-ink">
        {found.map((one) => (
          <MessageLine key={one.id} message={one} />
        ))}
      </ul>
    </section>
  );
}

function MessageLine({ message }: { message: Message }) {
  const may = useMay();
  const act = useAct();
  const [answering, setAnswering] = useState(false);
  const path = { message: message.id };
  const decide = (decision: "shown" | "refused") =>
    void act(
      async () =>
        body(await api.PUT("/api/messages/{message}/decision", { params: { path }, body: { decision } })),
      { said: decision === "shown" ? "It is shown under the record." : "Refused.", made: "readers" },
    );
  const follow = () =>
    void act(async () => api.POST("/api/messages/{message}/follow-up", { params: { path } }), {
      said: "It stands among the explanations of the review, to be tested.",
      made: "readers",
    });
  const answer = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const words = String(new FormData(event.currentTarget).get("answer") ?? "");
    const done = await act(
      async () =>
        body(await api.PUT("/api/messages/{message}/answer", { params: { path }, body: { answer: words } })),
      { said: "Answered, for everybody to read.", made: "readers" },
    );
    if (done) setAnswering(false);
  };
  return (
    <li
      className={`border-b border-line px-2 py-2 ${message.state === "waiting" ? "border-l-3 border-l-mark bg-sheet" : ""}`}
    >
      <p className="text-note text-quiet">
        <strong className="text-ink">{message.name || "A reader"}</strong>{" "}
        {message.kind === "result" ? "sends a result" : "asks"} under edition {message.edition} of “
        {message.question}”, <When at={message.at} /> · {STATES[message.state]}
        {message.email && ` · ${message.email}`}
      </p>
      {message.kind === "result" && (
        <p>
          <strong>{message.figure}</strong> on {message.machine}{" "}
          <span className="text-note text-quiet">not verified, in no comparison</span>
        </p>
      )}
      <p className="my-0.5 break-words whitespace-pre-wrap">{message.text}</p>
      {message.answer && (
        <p className="border-l-2 border-line pl-3 text-note break-words whitespace-pre-wrap">
          {message.answered_by}: {message.answer}
        </p>
      )}
      {may("publish") && (
        <p className="flex flex-wrap gap-3 text-note">
          {message.state !== "shown" && (
            <Button kind="link" onClick={() => decide("shown")}>
              Let through
            </Button>
          )}
          {message.state !== "refused" && (
            <Button kind="link" onClick={() => decide("refused")}>
              Refuse
            </Button>
          )}
          <Button kind="link" onClick={() => setAnswering(!answering)}>
            {message.answer ? "Change the answer" : "Answer"}
          </Button>
          <Button kind="link" onClick={follow}>
            Note it as an explanation to test
          </Button>
        </p>
      )}
      {answering && (
        <form onSubmit={(event) => void answer(event)} className="mt-1">
          <textarea
            name="answer"
            aria-label="The answer, for everybody to read"
            rows={3}
            required
            maxLength={2000}
            autoFocus
            defaultValue={message.answer}
            className="w-full border border-ink bg-sheet px-2 py-1"
          />
          <Button type="submit">Publish the answer</Button>
        </form>
      )}
    </li>
  );
}
