import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { recordQuery } from "../api/queries";
import { MatrixProvider, ReviewProvider } from "../api/review";
import { Failed, Loading } from "../shell/States";
import { Captures } from "./record/Captures";

/** Every pass of a record with its captures, drawn; the record itself is a page of the server. */
export function CapturesPage() {
  const { slug = "" } = useParams();
  const record = useQuery(recordQuery(slug));
  if (record.isPending) return <Loading />;
  if (record.isError) return <Failed error={record.error} again={() => void record.refetch()} />;
  const { content, edition } = record.data;
  return (
    <ReviewProvider review={content.review}>
      <MatrixProvider matrix={content.matrix}>
        <main className="mx-auto max-w-[1260px] px-5 py-8">
          <p className="mb-2 text-note">
            <a className="underline" href={`/records/${slug}`}>
              Back to the record, edition {edition}
            </a>
          </p>
          <h1 className="mb-4 font-serif text-title leading-tight font-semibold">
            {content.review.question}: every pass with its captures
          </h1>
          <Captures content={content} slug={slug} />
        </main>
      </MatrixProvider>
    </ReviewProvider>
  );
}
