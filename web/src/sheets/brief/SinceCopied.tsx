import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { useReview } from "../../api/review";
import { copiedQuery } from "../../api/standings";
import { dayWords } from "../../places/standings/day";

/** Of a copy: the review that it took its plan from, and what has changed since that was measured. */
export function SinceCopied() {
  const review = useReview();
  const { data } = useQuery(copiedQuery(review.id));
  if (!data?.review) return null;
  const groups: [string, string[]][] = [
    ["Later revisions, not taken here", data.revisions],
    ["Newer versions, not taken here", data.editions],
    ["Prices", data.prices],
    ["No longer here, of who measured it", data.people],
  ];
  const told = groups.filter(([, lines]) => lines.length);
  return (
    <section aria-label="A copy" className="mt-6 text-note">
      <h2 className="mb-1 font-serif text-lead font-semibold">A copy</h2>
      <p>
        of{" "}
        <Link className="underline" to={`/reviews/${data.review}/brief`}>
          {data.question}
        </Link>
        {data.measured_on ? `, measured last on ${dayWords(data.measured_on)}.` : ", which has no pass."}
        {!told.length && " Nothing that is known of has changed since."}
      </p>
      {told.map(([name, lines]) => (
        <div key={name} className="mt-1">
          <h3 className="text-quiet">{name}</h3>
          <ul>
            {lines.map((line) => (
              <li key={line} className="border-t border-line py-0.5">
                {line}
              </li>
            ))}
          </ul>
        </div>
      ))}
    </section>
  );
}
