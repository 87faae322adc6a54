import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { recordQuery } from "../api/queries";
import { Beside } from "../sheets/pictures/Beside";
import { LadderTable } from "../sheets/ladders/LadderTable";
import { DifferenceTable } from "../sheets/DifferenceTable";
import { limits } from "../sheets/matrix/lenses/limits";
import { versus } from "../sheets/matrix/lenses/versus";
import { count } from "../marks/words";
import { Failed, Loading } from "../shell/States";
import { Concluded } from "./record/Concluded";
import { Captures } from "./record/Captures";
import { Configurations } from "./record/Configurations";
import { Reservations } from "./record/Reservations";
import { Results } from "./record/Results";
import { MatrixProvider, ReviewProvider } from "../api/review";

/** A published record: readable by anybody, frozen, printable, with its data. */
export function RecordPage() {
  const { slug = "" } = useParams();
  const record = useQuery(recordQuery(slug));
  if (record.isPending) return <Loading />;
  if (record.isError) return <Failed error={record.error} again={() => void record.refetch()} />;
  const { content, edition, editions, change_note } = record.data;
  const { review, matrix } = content;
  const newest = editions[0];
  return (
    <ReviewProvider review={review}>
      <MatrixProvider matrix={matrix}>
        <main className="mx-auto max-w-[1260px] px-5 py-8">
          {newest && newest.edition > edition && (
            <p className="mb-4 border border-mark bg-sheet p-3" role="note">
              This is edition {edition}. There is a newer one:{" "}
              <a className="underline" href={`/records/${newest.slug}`}>
                edition {newest.edition}
              </a>
              {newest.change_note && ` (${newest.change_note})`}.
            </p>
          )}
          <h1 className="font-serif text-[30px] leading-tight font-semibold">{review.question}</h1>
          <p className="mt-2 text-note text-quiet">
            Edition {edition}, published{" "}
            {new Date(content.published_at).toLocaleDateString("en-GB", { dateStyle: "long" })} by{" "}
            {content.published_by}
            {change_note && ` · changed: ${change_note}`}
          </p>
          <Concluded content={content} />
          <Section title="Against the baseline">
            <Results lens={versus} />
            <versus.Foot />
          </Section>
          {content.ladders.length > 0 && (
            <Section title="Recommended settings">
              <LadderTable ladders={content.ladders} />
            </Section>
          )}
          {content.picture_pairs.length > 0 && (
            <Section title="Pictures beside each other">
              {content.picture_pairs.map((pair) => (
                <div key={pair.id} className="mb-4">
                  <p className="mb-1">{pair.said}</p>
                  <Beside pair={pair} address={(id) => `/api/records/${slug}/pictures/${id}`} />
                </div>
              ))}
            </Section>
          )}
          <Section title="To be read with it">
            <Reservations content={content} />
          </Section>
          <Section title="Configurations">
            <DifferenceTable columns={review.columns} differences={review.differences} />
            <Configurations content={content} />
            <p className="mt-1 text-note text-quiet">
              Held constant: {review.constant}. Expected beforehand:{" "}
              {review.expectation || "nothing was written down."}
            </p>
            {content.measured_by.length > 0 && (
              <p className="mt-1 text-note text-quiet">Measured by: {content.measured_by.join(", ")}.</p>
            )}
            {review.skill_note && (
              <p className="mt-1 text-note text-quiet">What could not be measured: {review.skill_note}</p>
            )}
            {[review.disclosure, ...(review.origins ?? [])].filter(Boolean).length > 0 && (
              <p className="mt-1 text-note text-quiet">
                Interests: {[review.disclosure, ...(review.origins ?? [])].filter(Boolean).join(" · ")}
              </p>
            )}
          </Section>
          {matrix.limits.some((row) => Object.keys(row.cells).length > 0) && (
            <Section title="What limited the runs">
              <Results lens={limits} />
              <limits.Foot />
            </Section>
          )}
          <Section title="Captures">
            <Captures content={content} slug={slug} />
          </Section>
          <Section title="Data">
            <p>
              <a className="underline" href={`/api/records/${slug}/figures.csv`} download>
                All figures as CSV
              </a>
              : {count(content.passes.length, "pass")},{" "}
              {content.passes.filter((pass) => pass.set_aside).length} set aside. Every capture can be had as
              CSV above.
            </p>
            <p>
              <a className="underline" href={`/api/records/${slug}/comparisons.csv`} download>
                All comparisons as CSV
              </a>
              : every cell with its interval, its verdict, or why it has none.
            </p>
          </Section>
        </main>
      </MatrixProvider>
    </ReviewProvider>
  );
}

function Section({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section className="mt-7">
      <h2 className="mb-2 font-serif text-[19px] font-semibold">{title}</h2>
      {children}
    </section>
  );
}
