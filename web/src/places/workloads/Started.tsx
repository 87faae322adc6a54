import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../api/acts";
import type { WorkloadShape } from "../../api/client";
import { sessionQuery, systemsQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { When } from "../../design/When";
import { lineOf } from "./commandText";

/** How a bench starts it; a command runs only where an admin has approved it. */
export function Started({ workload }: { workload: WorkloadShape }) {
  if (!workload.runner) {
    return (
      <section className="text-note">
        <h3 className="font-semibold">Started by hand</h3>
        <p className="text-quiet">No bench runs it; its figures are typed in or come from files.</p>
      </section>
    );
  }
  if (workload.runner !== "command") {
    return (
      <section className="text-note">
        <h3 className="font-semibold">Started by the bench</h3>
        <p className="text-quiet">
          {workload.runner === "simulated"
            ? "Simulated systems play it."
            : `It ships with the bench as ${workload.runner}.`}
        </p>
      </section>
    );
  }
  return <ByCommand workload={workload} />;
}

function ByCommand({ workload }: { workload: WorkloadShape }) {
  const session = useQuery(sessionQuery);
  const systems = useQuery(systemsQuery);
  const run = useAct();
  const [chosen, setChosen] = useState("");
  const approves = session.data?.may.includes("manage_benches") ?? false;
  const words = (workload.command.arguments ?? []) as string[];
  const path = (system: number) => `/api/workloads/${workload.id}/approvals/${system}`;
  const approve = (system: number, name: string) =>
    void run(() => act("PUT", path(system)), {
      said: `It may run on ${name}, as it is now.`,
      undo: () => act("DELETE", path(system)),
      made: "workloads",
    });
  return (
    <section className="text-note">
      <h3 className="font-semibold">Started by a command</h3>
      <pre className="my-1 overflow-x-auto border border-line bg-paper p-2">{lineOf(words)}</pre>
      {workload.approvals.length === 0 && <p>No admin has approved it yet, so no bench runs it.</p>}
      <ul>
        {workload.approvals.map((one) => (
          <li key={one.system} className="flex flex-wrap items-center gap-2 border-t border-line py-0.5">
            <span>{one.name}</span>
            {one.current ? (
              <span className="text-quiet">
                approved by {one.by}, <When at={one.at} />
                {one.program
                  ? `, for the program ${one.program}; another one behind the same words is refused`
                  : ", for the program that its bench finds at the next pass"}
              </span>
            ) : (
              <span className="text-mark">the command was changed since; it does not run</span>
            )}
            {approves && (
              <span className="ml-auto flex gap-3">
                {(!one.current || one.program) && (
                  <Button kind="link" onClick={() => approve(one.system, one.name)}>
                    approve it as it is now
                  </Button>
                )}
                <Button
                  kind="link"
                  onClick={() =>
                    void run(() => act("DELETE", path(one.system)), {
                      said: `It does not run on ${one.name} any more.`,
                      made: "workloads",
                    })
                  }
                >
                  withdraw
                </Button>
              </span>
            )}
          </li>
        ))}
      </ul>
      {approves && (
        <form
          className="mt-1 flex gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            const system = systems.data?.find((one) => String(one.id) === chosen);
            if (system) approve(system.id, system.name);
          }}
        >
          <select
            aria-label="System that may run it"
            className="border border-ink bg-sheet px-1.5"
            value={chosen}
            onChange={(event) => setChosen(event.target.value)}
          >
            <option value="">choose a system</option>
            {systems.data
              ?.filter((one) => !one.simulated)
              .map((one) => (
                <option key={one.id} value={one.id}>
                  {one.name}
                </option>
              ))}
          </select>
          <Button type="submit" disabled={!chosen}>
            Approve it there
          </Button>
        </form>
      )}
    </section>
  );
}
