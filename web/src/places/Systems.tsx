import { useQuery } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { addSystem, issueToken } from "../api/acts";
import type { SessionShape, Shapes } from "../api/client";
import { systemsQuery } from "../api/queries";
import { Button } from "../design/Button";
import { Dialog } from "../design/Dialog";
import { Field } from "../design/Field";
import { useNotices } from "../design/Notices";
import { When } from "../design/When";
import { setting } from "../marks/words";
import { Failed, Loading } from "../shell/States";

/** The machines under test: what they are, what their bench told, and how to connect one. */
export function Systems({ session }: { session: SessionShape }) {
  const systems = useQuery(systemsQuery);
  const [adding, setAdding] = useState(false);
  if (systems.isPending) return <Loading />;
  if (systems.isError) return <Failed error={systems.error} again={() => void systems.refetch()} />;
  const manages = session.may.includes("manage_benches");
  return (
    <main className="p-5">
      <div className="mb-3 flex items-center justify-between">
        <h1 className="font-serif text-title font-semibold">Systems</h1>
        {manages ? (
          <Button onClick={() => setAdding(true)}>Add a system</Button>
        ) : (
          <span className="text-note text-quiet">An admin connects machines.</span>
        )}
      </div>
      {systems.data.length === 0 && (
        <p>No system yet. Add one, issue a token for its bench, and run the bench there.</p>
      )}
      <div className="border-t border-line">
        {systems.data.map((system) => (
          <System key={system.id} system={system} manages={manages} />
        ))}
      </div>
      {adding && <AddSystem onClose={() => setAdding(false)} again={() => void systems.refetch()} />}
    </main>
  );
}

function System({ system, manages }: { system: Shapes["SystemShape"]; manages: boolean }) {
  const [token, setToken] = useState<string | null>(null);
  const [sure, setSure] = useState(false);
  const { warn } = useNotices();
  const issue = async () => {
    setSure(false);
    try {
      setToken(await issueToken(system.id));
    } catch (error) {
      warn((error as Error).message);
    }
  };
  const told = Object.entries(system.inventory);
  return (
    <section className="grid gap-x-8 gap-y-2 border-b border-line py-4 lg:grid-cols-[260px_1fr_1fr]">
      <div>
        <h2 className="font-serif text-lead font-semibold">{system.name}</h2>
        <p className="text-note text-quiet">{system.description}</p>
        <p className="mt-2 text-note">
          {system.simulated ? "Simulated" : "Real"};{" "}
          {system.heard_at ? (
            <>
              heard <When at={system.heard_at} />
            </>
          ) : system.has_bench ? (
            "its bench was not heard yet"
          ) : (
            "no bench"
          )}
          .
        </p>
        {manages && (
          <Button className="mt-2" onClick={() => (system.has_bench ? setSure(true) : void issue())}>
            {system.has_bench ? "Issue a new token" : "Issue a bench token"}
          </Button>
        )}
      </div>
      <Facts
        title="Configurations"
        facts={system.configurations.map((c) => [c.name, settingsText(c.settings)])}
      />
      <Facts
        title="What its bench told"
        facts={told.map(([name, value]) => [name, Array.isArray(value) ? value.join(", ") : String(value)])}
        empty="Nothing yet; connect its bench."
      />
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
    </section>
  );
}

function settingsText(settings: Record<string, unknown>): string {
  return Object.entries(settings)
    .map(([key, value]) => setting(key, value))
    .join(" · ");
}

function Facts({
  title,
  facts,
  empty = "None yet.",
}: {
  title: string;
  facts: [string, string][];
  empty?: string;
}) {
  return (
    <div>
      <h3 className="mb-1 text-note font-semibold">{title}</h3>
      {facts.length === 0 && <p className="text-note text-quiet">{empty}</p>}
      <dl className="grid grid-cols-[130px_1fr] gap-x-3 gap-y-0.5 text-note">
        {facts.map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-quiet">{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}

function AddSystem({ onClose, again }: { onClose: () => void; again: () => void }) {
  const [problem, setProblem] = useState("");
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    try {
      await addSystem(String(form.get("key")), String(form.get("name")), String(form.get("description")));
      again();
      onClose();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <Dialog open onClose={onClose} title="Add a system">
      <form onSubmit={(event) => void submit(event)}>
        <Field label="Name">
          <input name="name" required maxLength={120} />
        </Field>
        <Field label="Key" hint="A short name for addresses and files: letters, digits, hyphens.">
          <input name="key" required pattern="[a-zA-Z0-9_\-]+" maxLength={50} />
        </Field>
        <Field label="What it is">
          <textarea name="description" rows={2} />
        </Field>
        {problem && (
          <p role="alert" className="mb-3 text-note text-mark">
            {problem}
          </p>
        )}
        <Button kind="strong" type="submit">
          Add
        </Button>
      </form>
    </Dialog>
  );
}
