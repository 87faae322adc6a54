import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import type { Shapes } from "../api/client";
import { reviewsOf, systemsQuery } from "../api/queries";
import { Button } from "../design/Button";
import { found, Search } from "../design/Search";
import { When } from "../design/When";
import { Seal } from "../marks/Seal";
import { bytes, count, unbroken } from "../marks/words";
import { Failed, Loading } from "../shell/States";
import { FromElsewhere } from "./reviews/FromElsewhere";
import { ItemMenu, NewReview } from "./reviews/NewReview";
import { useMay } from "../api/session";
import { ListHead } from "../design/ListHead";

/** All reviews, each as its question. */
export function Reviews() {
  const may = useMay();
  const [archived, setArchived] = useState(false);
  const reviews = useQuery(reviewsOf(archived));
  const [search, setSearch] = useState("");
  const [adding, setAdding] = useState(false);
  if (reviews.isPending) return <Loading />;
  if (reviews.isError) return <Failed error={reviews.error} again={() => void reviews.refetch()} />;
  const edits = may("edit_review");
  const shown = reviews.data.filter((one) =>
    found(search, one.question, one.varies, one.state, ...one.columns),
  );
  return (
    <main className="grid flex-1 gap-8 p-5 lg:grid-cols-[1fr_240px]">
      <div>
        <ListHead title="Reviews" adds="Ask a question" onAdd={edits ? () => setAdding(true) : undefined} />
        <Search value={search} onChange={setSearch} label="Search the reviews">
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={archived}
              onChange={(event) => setArchived(event.target.checked)}
            />
            archived too
          </label>
          <span className="text-quiet" role="status">
            {count(shown.length, "review")}
          </span>
        </Search>
        {reviews.data.length === 0 && <NoReview may={edits} onAsk={() => setAdding(true)} />}
        <ol className="border-t border-line">
          {shown.map((review) => (
            <Item key={review.id} review={review} may={edits} />
          ))}
        </ol>
        <FromElsewhere may={edits} />
      </div>
      <Benches />
      {adding && <NewReview onClose={() => setAdding(false)} />}
    </main>
  );
}

/** An empty list does the next thing. */
function NoReview({ may, onAsk }: { may: boolean; onAsk: () => void }) {
  return (
    <div className="border-t border-line py-4">
      <p className="mb-3 font-serif text-lead">
        No review yet. {may ? "The first one takes five answers." : "An editor asks the first question."}
      </p>
      {may && (
        <p className="flex flex-wrap items-baseline gap-4">
          <Link to="/first" className="border border-ink bg-ink px-3 py-1 text-note text-paper no-underline">
            Begin the first review
          </Link>
          <Button kind="link" onClick={onAsk}>
            or ask a question and plan it by yourself
          </Button>
        </p>
      )}
      <details className="mt-4 text-note">
        <summary>Look at an example</summary>
        <p className="mt-1 max-w-prose">
          The demo is a team with eleven reviews on simulated machines. It keeps its own data beside yours:
          run <code>./start</code> in another terminal, which prints its sign-ins, and open{" "}
          <a className="underline" href="http://127.0.0.1:8420/">
            127.0.0.1:8420
          </a>
          .
        </p>
      </details>
    </div>
  );
}

function Item({ review, may }: { review: Shapes["ReviewItem"]; may: boolean }) {
  const owed = [
    review.kept && count(review.kept, "pass kept", "passes kept"),
    review.owed && `${review.owed} owed`,
    review.running && `${review.running} running`,
  ].filter(Boolean);
  return (
    <li className="border-b border-line py-3.5">
      <div className="flex items-baseline justify-between gap-6">
        <Link
          to={`/reviews/${review.id}/matrix`}
          className="font-serif text-[19px] font-semibold no-underline hover:underline"
        >
          {review.question}
        </Link>
        <span
          className={`text-note whitespace-nowrap ${review.owed || review.running ? "text-ink" : "text-quiet"}`}
        >
          {review.state}
          {may && <ItemMenu review={review} />}
        </span>
      </div>
      {review.answer && <p className="mt-0.5 font-serif text-lead">{unbroken(review.answer)}</p>}
      <div className="mt-1.5 flex flex-wrap items-center gap-x-4 gap-y-1 text-note text-quiet">
        {review.varies && (
          <span>
            varies <strong className="text-ink">{review.varies}</strong>
          </span>
        )}
        <span className="flex items-center gap-3">
          {review.columns.map((label, at) => (
            <span key={label} className="flex items-center gap-1 text-ink">
              <Seal position={at} label={label} size={17} /> {label}
            </span>
          ))}
        </span>
        <span>{count(review.tests, "test")}</span>
        <span>{owed.length ? owed.join(", ") : "no pass yet"}</span>
        {review.last_pass_at && (
          <span>
            last pass <When at={review.last_pass_at} />
          </span>
        )}
        {review.record && (
          <a href={`/records/${review.record}`} className="underline">
            public record
          </a>
        )}
        {review.archived && <span>archived{awayWords(review)}</span>}
      </div>
    </li>
  );
}

/** What its captures took, and what they take since they were put away. */
function awayWords({ put_away, put_away_in }: Shapes["ReviewItem"]): string {
  if (!put_away) return "";
  return `, its captures put away: ${bytes(put_away)} in ${bytes(put_away_in)}, read as before`;
}

function Benches() {
  const systems = useQuery(systemsQuery);
  const connected = systems.data?.filter((system) => system.has_bench) ?? [];
  return (
    <aside aria-label="Benches" className="border-l-2 border-ink pl-5">
      <h2 className="mb-2 text-note font-semibold">Benches</h2>
      {systems.data && !connected.length && <p className="text-note text-quiet">No bench is connected.</p>}
      <ul className="flex flex-col gap-3">
        {connected.map((system) => (
          <li key={system.id} className="text-note">
            <Link to="/systems" className="font-serif text-body font-semibold no-underline hover:underline">
              {system.name}
            </Link>
            <div className="text-quiet">
              {system.simulated ? "simulated" : "real"} ·{" "}
              {system.heard_at ? (
                <>
                  heard <When at={system.heard_at} />
                </>
              ) : (
                "not heard yet"
              )}
            </div>
          </li>
        ))}
      </ul>
    </aside>
  );
}
