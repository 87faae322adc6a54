import { useState, type FormEvent } from "react";
import type { TestShape } from "../../../api/client";
import { act } from "../../../api/acts";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { Field } from "../../../design/Field";
import { useAct } from "../../../design/useAct";
import { useMatrix } from "../../../api/review";
import { useMay } from "../../../api/session";

interface Props {
  test: TestShape;
  metric: string;
}

/** Whether the metric is trusted for the workload; one that is not stays visible and enters no verdict. */
export function TrustOf({ test, metric }: Props) {
  const may = useMay();
  const matrix = useMatrix();
  const [saying, setSaying] = useState(false);
  const run = useAct();
  const row = matrix.rows.find((one) => one.test === test.id && one.metric === metric);
  if (!row) return null;
  const path = `/api/workloads/${test.workload}/untrusted/${metric}`;
  const trust = () => act("DELETE", path);
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const reason = String(new FormData(event.currentTarget).get("reason") ?? "");
    const done = await run(() => act("PUT", path, { reason }).then(() => true), {
      said: `${row.label} of ${test.name} is not trusted; it enters no verdict in any review.`,
      undo: trust,
      made: "review",
    });
    if (done) setSaying(false);
  };
  return (
    <p className="mb-1 text-small text-quiet">
      {row.untrusted && <span className="text-mark">⚑ Not trusted: {row.untrusted}. </span>}
      {may("edit_workloads") &&
        (row.untrusted ? (
          <Button
            kind="link"
            onClick={() => void run(trust, { said: `${row.label} counts again.`, made: "review" })}
          >
            Trust it again
          </Button>
        ) : (
          <Button kind="link" onClick={() => setSaying(true)}>
            Do not trust {row.label.split(",")[0]} here
          </Button>
        ))}
      <Dialog open={saying} onClose={() => setSaying(false)} title={`Do not trust ${row.label}`}>
        <form onSubmit={(event) => void submit(event)}>
          <p className="mb-3">
            It stays visible for {test.name} and enters no verdict and no overall figure, in every review.
          </p>
          <Field label="Why">
            <input name="reason" required maxLength={300} autoFocus autoComplete="off" />
          </Field>
          <div className="flex gap-3">
            <Button kind="strong" type="submit">
              Do not trust it
            </Button>
            <Button onClick={() => setSaying(false)}>Leave it</Button>
          </div>
        </form>
      </Dialog>
    </p>
  );
}
