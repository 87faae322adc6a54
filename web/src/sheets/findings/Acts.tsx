import { Link } from "react-router";
import { api, body } from "../../api/client";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { count } from "../../marks/words";
import type { Finding } from "./listed";

/** What would mend a finding that cannot be told, or is not settled. */
export function Acts({ finding }: { finding: Finding }) {
  const review = useReview();
  const may = useMay();
  const act = useAct();
  const owe = async (cells: Finding["acts"][number]["cells"]) => {
    const done = await act(
      async () =>
        body(
          await api.POST("/api/reviews/{review}/findings/owed", {
            params: { path: { review: review.id } },
            body: { cells },
          }),
        ),
      { made: "docket" },
    );
    return done;
  };
  return finding.acts.map((one) => (
    <p key={one.words} className="mt-1 text-note">
      {one.kind === "owe" && may("ask_for_passes") ? (
        <Button onClick={() => void owe(one.cells)}>{one.words.replace(/^p/, "P")}</Button>
      ) : one.kind === "brief" ? (
        <Link to={`/reviews/${review.id}/brief`} className="underline">
          {one.words}
        </Link>
      ) : (
        <span>
          {one.kind === "owe"
            ? `${count(one.passes, "more pass", "more passes")} would settle it.`
            : one.words}
        </span>
      )}
    </p>
  ));
}
