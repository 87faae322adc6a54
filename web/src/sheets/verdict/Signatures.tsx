import { api, type VerdictShape } from "../../api/client";
import { useReview } from "../../api/review";
import { useMay, useSession } from "../../api/session";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { When } from "../../design/When";

type Role = "author" | "second reader";

/** Who stands for the verdict as it is; a signature is taken back by what changes. */
export function Signatures({ verdict }: { verdict: VerdictShape }) {
  const review = useReview();
  const may = useMay();
  const session = useSession();
  const act = useAct();
  const standing = verdict.signatures.filter((one) => one.stands);
  const has = (role: Role) => standing.some((one) => one.role === role);
  const own = standing.some((one) => one.username === session.username);
  const sign = (role: Role) =>
    void act(
      async () =>
        api.POST("/api/reviews/{review}/verdict/signatures", {
          params: { path: { review: review.id } },
          body: { role },
        }),
      { said: `Signed as ${role}. What is changed from now on takes it back.`, made: "verdict" },
    );
  const withdraw = (signature: number) =>
    void act(async () => api.DELETE("/api/signatures/{signature}", { params: { path: { signature } } }), {
      said: "Withdrawn.",
      made: "verdict",
    });
  const written = Boolean(verdict.answer || verdict.uses.length);
  return (
    <section aria-label="Signed" className="mt-5">
      <h2 className="border-b border-line pb-1.5 text-body font-semibold">Signed</h2>
      <ul>
        {verdict.signatures.map((one) => (
          <li
            key={one.id}
            className={`border-b border-line py-1.5 text-note ${one.stands ? "" : "text-quiet"}`}
          >
            <span className={one.stands ? "" : "line-through"}>
              {one.by}, {one.role}
            </span>
            , <When at={one.at} />
            {one.why_not && ` · ${one.why_not}`}
            {one.stands && one.username === session.username && (
              <>
                {" "}
                <Button kind="link" onClick={() => withdraw(one.id)}>
                  Withdraw
                </Button>
              </>
            )}
          </li>
        ))}
      </ul>
      {!standing.length && <p className="py-1.5 text-note text-quiet">Nobody stands for it yet.</p>}
      {verdict.lacks.length > 0 && (
        <p className="py-1 text-note">
          The team asks for two before publishing; missing: {verdict.lacks.join(", ")}.
        </p>
      )}
      {written && !own && (
        <p className="mt-1 flex flex-wrap gap-2 print:hidden">
          {!has("author") && may("edit_review") && (
            <Button onClick={() => sign("author")}>Sign as author</Button>
          )}
          {!has("second reader") && may("sign") && (
            <Button onClick={() => sign("second reader")}>Sign as second reader</Button>
          )}
        </p>
      )}
    </section>
  );
}
