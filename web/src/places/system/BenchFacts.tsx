import { useState } from "react";
import { Link } from "react-router";
import { act, issueToken } from "../../api/acts";
import type { PartShape, SystemDetail } from "../../api/client";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { useNotices } from "../../design/Notices";
import { useAct } from "../../design/useAct";
import { When } from "../../design/When";
import { count } from "../../marks/words";
import { useMay } from "../../api/session";

/** What the bench of a system told, and its token. */
export function BenchFacts({ system }: { system: SystemDetail }) {
  const may = useMay();
  const [token, setToken] = useState<string | null>(null);
  const [sure, setSure] = useState(false);
  const { warn } = useNotices();
  const run = useAct();
  const issue = async () => {
    setSure(false);
    try {
      setToken(await issueToken(system.id));
    } catch (error) {
      warn((error as Error).message);
    }
  };
  const take = async () => {
    const made = await run(() => act<PartShape[]>("POST", `/api/systems/${system.id}/inventory-parts`), {
      made: "shelf",
    });
    if (made) {
      const names = made.map((part) => part.name).join(", ") || "nothing";
      void run(() => Promise.resolve(), { said: `${count(made.length, "part")} on the shelf: ${names}.` });
    }
  };
  const told = Object.entries(system.inventory);
  const sendAgain = () =>
    void run(() => act("POST", `/api/systems/${system.id}/send-again`), {
      said: "The bench sends them again as soon as it asks for work.",
      made: "systems",
    });
  return (
    <aside className="text-note" aria-label="Bench">
      {system.rival_at && (
        <p role="alert" className="mb-3 border-l-2 border-mark pl-2">
          A second bench spoke with the same token <When at={system.rival_at} /> and was turned away. Give
          each machine a token of its own.
        </p>
      )}
      {system.set_aside.length > 0 && (
        <section aria-label="Set aside on the bench" className="mb-4 border-l-2 border-mark pl-2">
          <h2 className="font-semibold">Set aside on the bench</h2>
          <p className="text-quiet">Passes that the server did not take. Nothing of them is lost.</p>
          <ul className="my-1">
            {system.set_aside.map((one) => (
              <li key={one.id} className="wrap-anywhere">
                {one.reason}{" "}
                <span className="text-quiet">
                  <When at={one.at} />
                </span>
              </li>
            ))}
          </ul>
          {may("record") && <Button onClick={sendAgain}>Send them again</Button>}
        </section>
      )}
      <h2 className="mb-1 font-semibold">What its bench told</h2>
      {told.length === 0 && <p className="text-quiet">Nothing: no bench was heard, so it is run by hand.</p>}
      <dl className="mb-3 grid gap-y-1">
        {told.map(([name, value]) => (
          <div key={name}>
            <dt className="text-quiet">{name}</dt>
            <dd>{Array.isArray(value) ? value.join(", ") : String(value)}</dd>
          </div>
        ))}
      </dl>
      <div className="mb-5 flex flex-col items-start gap-2">
        {told.length > 0 && may("edit_shelf") && (
          <Button onClick={() => void take()}>Put these parts on the shelf</Button>
        )}
        {may("manage_benches") && (
          <Button onClick={() => (system.has_bench ? setSure(true) : void issue())}>
            {system.has_bench ? "Issue a new token" : "Issue a bench token"}
          </Button>
        )}
      </div>
      <h2 className="mb-1 font-semibold">Pre-run checks</h2>
      {system.checks.length === 0 && <p className="text-quiet">Nothing so far.</p>}
      <ul className="mb-4 list-disc pl-4">
        {system.checks.map((check) => (
          <li key={String(check.key)}>
            {String(check.words)}
            {typeof check.at_most === "number" && ` At most ${check.at_most} ${String(check.unit)}.`}
          </li>
        ))}
      </ul>
      <p className="text-quiet">
        When an observed value is not what was set (numbers within 5 % agree), its{" "}
        <Link to={`/systems/${system.id}/docket`} className="underline">
          docket
        </Link>{" "}
        {system.on_mismatch === "stop" ? "stops." : "goes on and flags it."}
      </p>
      <Dialog open={sure} onClose={() => setSure(false)} title={`A new token for ${system.name}`}>
        <p>The token that the bench uses now stops working at once. This can&rsquo;t be undone.</p>
        <div className="mt-4 flex gap-3">
          <Button kind="strong" onClick={() => void issue()}>
            Issue a new token
          </Button>
          <Button onClick={() => setSure(false)}>Keep the present one</Button>
        </div>
      </Dialog>
      <Dialog
        open={token !== null}
        onClose={() => setToken(null)}
        title={`Bench token for ${system.name}`}
        wide
      >
        <p>It is shown this once. On the machine, run:</p>
        <pre
          className="my-3 border border-line bg-paper p-3 text-note break-all whitespace-pre-wrap"
          data-token
        >
          {`NOMOTHET_BENCH_TOKEN=${token ?? ""} nomothet bench --server ${window.location.origin}`}
        </pre>
        <Button kind="strong" onClick={() => setToken(null)}>
          I have copied it
        </Button>
      </Dialog>
    </aside>
  );
}
