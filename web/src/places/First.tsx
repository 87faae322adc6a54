import { useState, type FormEvent, type ReactNode } from "react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { act } from "../api/acts";
import { api, body, type Shapes } from "../api/client";
import { preferencesQuery } from "../api/preferences";
import { keys } from "../api/queries";
import { useMay } from "../api/session";
import { Button } from "../design/Button";
import { Field } from "../design/Field";
import { markMistakes } from "../design/mistaken";
import { WaysIn } from "../first/WaysIn";
import { Failed, Loading } from "../shell/States";

/** Leads through a team's first review, from its question to a matrix that waits for the first figures. */
export function First() {
  const query = useQuery({
    queryKey: ["first-review"],
    queryFn: async () => body(await api.GET("/api/first-review")),
  });
  const client = useQueryClient();
  const navigate = useNavigate();
  const may = useMay();
  const [machine, setMachine] = useState<number | null>(null);
  const [differing, setDiffering] = useState("graphics");
  const [template, setTemplate] = useState("game");
  const [problem, setProblem] = useState("");
  if (!may("edit_review"))
    return <p className="p-5 font-serif text-lead">An editor makes a review; your role may not.</p>;
  if (query.isPending) return <Loading />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const { machines, parts, templates } = query.data;
  const aspect = query.data.differing.find((one) => one.key === differing);
  const chosen = templates.find((one) => one.key === template);
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const said = new FormData(form);
    const text = (name: string) => String(said.get(name) ?? "");
    try {
      const made = await act<Shapes["ReviewShape"]>("POST", "/api/first-review", {
        question: text("question"),
        ...(machine === null
          ? {
              machine: text("machine"),
              parts: Object.fromEntries(parts.map((one) => [one.key, text(`part ${one.key}`)])),
            }
          : { system: machine }),
        differing,
        a: text("a"),
        b: text("b"),
        template,
        workload: text("workload"),
        version: text("version"),
      });
      await client.invalidateQueries({ queryKey: keys.reviews });
      // Through which one is led stands there.
      await client.invalidateQueries(preferencesQuery);
      void navigate(`/reviews/${made.id}/matrix?lens=progress`);
    } catch (error) {
      setProblem((error as Error).message);
      markMistakes(form, error);
    }
  };
  return (
    <main className="mx-auto w-full max-w-[1080px] p-5">
      <h1 className="font-serif text-title font-semibold">Your first review</h1>
      <p className="mt-1 max-w-prose font-serif text-lead">
        A review is a question, asked of two configurations or more. Five answers make one; everything can be
        changed afterwards, and nothing is measured yet.
      </p>
      <form onSubmit={(event) => void submit(event)} className="mt-4">
        <Step number={1} title="The question" why="One sentence. It heads the review and its record.">
          <Field label="What do you want to know?">
            <input
              name="question"
              required
              maxLength={300}
              autoFocus
              autoComplete="off"
              placeholder="Is the new graphics card worth its price?"
            />
          </Field>
        </Step>
        <Step
          number={2}
          title="The machine"
          why="By hand in five fields; or one whose bench has told what it is made of."
        >
          {machines.length > 0 && (
            <Field label="Which">
              <select
                value={machine ?? ""}
                onChange={(event) => setMachine(event.target.value ? Number(event.target.value) : null)}
              >
                <option value="">another one, told by hand</option>
                {machines.map((one) => (
                  <option key={one.id} value={one.id}>
                    {[one.name, ...one.told].join(" · ")}
                  </option>
                ))}
              </select>
            </Field>
          )}
          {machine === null && (
            <div className="grid gap-x-4 sm:grid-cols-2 lg:grid-cols-3">
              <Field label="Its name">
                <input name="machine" required maxLength={120} autoComplete="off" />
              </Field>
              {parts.map((one) => (
                <Field key={one.key} label={one.label}>
                  <input name={`part ${one.key}`} maxLength={120} autoComplete="off" />
                </Field>
              ))}
            </div>
          )}
        </Step>
        <Step
          number={3}
          title="Two configurations"
          why="What is varied on purpose. Everything else in which they come to differ will be shown."
        >
          <div className="grid gap-x-4 sm:grid-cols-3">
            <Field label="They differ in">
              <select value={differing} onChange={(event) => setDiffering(event.target.value)}>
                {query.data.differing.map((one) => (
                  <option key={one.key} value={one.key}>
                    {one.label}
                  </option>
                ))}
              </select>
            </Field>
            {(["a", "b"] as const).map((name, at) => (
              <Field
                key={name}
                label={`${at ? "The other" : "One"} has${aspect?.unit ? `, in ${aspect.unit}` : ""}`}
              >
                <input name={name} required maxLength={120} autoComplete="off" />
              </Field>
            ))}
          </div>
        </Step>
        <Step number={4} title="A workload" why={`What is read off it: ${chosen?.reads ?? ""}.`}>
          <div className="grid gap-x-4 sm:grid-cols-3">
            <Field label="What kind">
              <select value={template} onChange={(event) => setTemplate(event.target.value)}>
                {templates.map((one) => (
                  <option key={one.key} value={one.key}>
                    {one.label}
                  </option>
                ))}
              </select>
            </Field>
            <Field label="Its name">
              <input
                name="workload"
                required
                maxLength={120}
                autoComplete="off"
                placeholder={chosen?.example ?? ""}
              />
            </Field>
            <Field label="Its version">
              <input name="version" maxLength={40} autoComplete="off" placeholder="1" />
            </Field>
          </div>
        </Step>
        <Step
          number={5}
          title="The way in"
          why="Three passes each are planned; they can come in any of these ways, also mixed."
        >
          <WaysIn />
        </Step>
        {problem && (
          <p role="alert" className="mb-3 text-note text-mark">
            {problem}
          </p>
        )}
        <Button kind="strong" type="submit">
          Make the review
        </Button>
      </form>
    </main>
  );
}

function Step({
  number,
  title,
  why,
  children,
}: {
  number: number;
  title: string;
  why: string;
  children: ReactNode;
}) {
  return (
    <section
      aria-label={title}
      className="grid gap-x-6 border-t border-line py-3 lg:grid-cols-[220px_minmax(0,1fr)]"
    >
      <div className="mb-2">
        <h2 className="font-serif text-lead font-semibold">
          {number}. {title}
        </h2>
        <p className="text-note text-quiet">{why}</p>
      </div>
      <div>{children}</div>
    </section>
  );
}
