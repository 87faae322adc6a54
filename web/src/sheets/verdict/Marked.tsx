import { Fragment } from "react";
import { Link } from "react-router";
import { useReview } from "../../api/review";
import { unbroken } from "../../marks/words";
import type { Finding } from "../findings/listed";
import { pieces } from "./verdict";

/** A text with the findings that it names: each a mark that leads to it, an amount as the finding has it now. */
export function Marked({ text, findings }: { text: string; findings: Map<number, Finding> }) {
  const review = useReview();
  return (
    <>
      {pieces(text).map((one, at) => {
        if ("words" in one) return <Fragment key={at}>{unbroken(one.words)}</Fragment>;
        const finding = findings.get(one.number);
        if (!finding) {
          return (
            <span key={at} className="text-mark" title="No finding is pinned under this number.">
              [{one.number}?]
            </span>
          );
        }
        if (one.what) {
          return (
            <span key={at} className="border-b border-dotted border-ink" title={finding.sentence}>
              {one.what === "amount" ? finding.told.replace(/^[+−-]/, "") : intervalOf(finding)}
            </span>
          );
        }
        return (
          <Link
            key={at}
            to={`/reviews/${review.id}/findings?finding=${encodeURIComponent(finding.key)}`}
            title={finding.sentence}
            className="mx-0.5 border border-line bg-sheet px-1.5 py-px align-[2px] font-sans text-small whitespace-nowrap no-underline hover:border-ink"
          >
            <span className="text-mark">◆</span> {one.number}
          </Link>
        );
      })}
    </>
  );
}

function intervalOf(finding: Finding): string {
  const interval = finding.bands.find((band) => band.told === finding.told)?.interval;
  return interval ? `(${interval})` : "";
}
