import { Link } from "react-router";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { Button } from "../../design/Button";
import { unbroken } from "../../marks/words";
import type { Finding } from "../findings/listed";
import { usePins } from "../findings/usePins";

/** The pinned findings with their numbers; each can be dragged into a text. */
export function PinnedList({ findings }: { findings: Finding[] }) {
  const review = useReview();
  const may = useMay();
  const pins = usePins(findings);
  const pinned = findings
    .filter((one) => one.pin)
    .sort((a, b) => (a.pin?.position ?? 0) - (b.pin?.position ?? 0));
  return (
    <section aria-label="Pinned findings">
      <h2 className="border-b border-line pb-1.5 text-body font-semibold">
        Pinned findings{" "}
        {may("edit_review") && pinned.length > 0 && (
          <span className="text-small font-normal text-quiet">drag one into a text, or type [ there</span>
        )}
      </h2>
      {!pinned.length && (
        <p className="py-2 text-note text-quiet">
          None yet. Pin what the verdict rests on among the{" "}
          <Link className="underline" to={`/reviews/${review.id}/findings`}>
            findings
          </Link>
          .
        </p>
      )}
      <ul>
        {pinned.map((one) => (
          <li
            key={one.key}
            draggable={may("edit_review")}
            onDragStart={(event) => {
              event.dataTransfer.setData("text/plain", `[${one.pin?.number}]`);
              event.dataTransfer.effectAllowed = "copy";
            }}
            className={`flex gap-2.5 border-b border-line py-2 text-note ${may("edit_review") ? "cursor-grab" : ""}`}
          >
            <span className="text-mark">◆{one.pin?.number}</span>
            <span className="min-w-0">
              <Link
                to={`/reviews/${review.id}/findings?finding=${encodeURIComponent(one.key)}`}
                className="no-underline hover:underline"
                draggable={false}
              >
                {unbroken(one.sentence)}
              </Link>
              <span className="block text-small text-quiet">
                {[one.kind_words, one.sure !== "decided" && one.sure, one.pin?.note]
                  .filter(Boolean)
                  .join(" · ")}
              </span>
              {one.pin?.changed && (
                <span className="block text-small text-mark">
                  {one.pin.changed}{" "}
                  {may("record") && (
                    <Button kind="link" onClick={() => void pins.seen(one.pin?.id ?? 0)}>
                      Seen
                    </Button>
                  )}
                </span>
              )}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
