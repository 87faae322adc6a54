import { useState } from "react";
import { act } from "../../../api/acts";
import type { Shapes, TraceShape } from "../../../api/client";
import { useMay } from "../../../api/session";
import { useVocabulary } from "../../../api/vocabulary";
import { Button } from "../../../design/Button";
import { CreateDialog } from "../../../design/CreateDialog";
import { Field } from "../../../design/Field";
import { useAct } from "../../../design/useAct";

type Doubt = Shapes["DoubtShape"];

const SCOPES = [
  ["pass", "in this pass"],
  ["system", "in all passes on this system"],
  ["workload", "in all passes of this workload"],
] as const;

/** What people have noted of the sensors of a pass: those that they do not believe, and those that are only shown. */
export function SensorsOf({ pass, trace }: { pass: string; trace: TraceShape }) {
  const may = useMay();
  const run = useAct();
  const [doubting, setDoubting] = useState(false);
  const noted = notedOf(trace);
  const believe = (one: Doubt) =>
    void run(() => act("DELETE", `/api/doubts/${one.id}`), {
      said: `${one.sensor} counts again; figures follow.`,
      made: "pass",
      undo: () =>
        act("POST", `/api/passes/${pass}/doubts`, {
          sensor: one.sensor,
          kind: one.kind,
          reason: one.reason,
          scope: one.scope,
        }),
    });
  return (
    <>
      {may("set_aside") && (
        <Button kind="link" onClick={() => setDoubting(true)}>
          Doubt a sensor
        </Button>
      )}
      {noted.length > 0 && (
        <ul className="w-full text-small" aria-label="What is noted of the sensors">
          {noted.map((one) => (
            <li key={one.id}>
              <span className="text-mark">⚑</span> {doubtWords(one)}
              <span className="text-quiet">, {one.by}</span>{" "}
              {may("set_aside") && (
                <Button kind="link" className="text-small" onClick={() => believe(one)}>
                  {one.kind === "not recorded" ? "no longer" : "believe it again"}
                </Button>
              )}
            </li>
          ))}
        </ul>
      )}
      {doubting && <DoubtDialog pass={pass} trace={trace} onClose={() => setDoubting(false)} />}
    </>
  );
}

/** Everything that is noted of a trace's sensors; a record of before has nothing. */
export function notedOf(trace: Pick<TraceShape, "lanes" | "not_recorded">): Doubt[] {
  return [...trace.lanes.flatMap((lane) => lane.doubted ?? []), ...(trace.not_recorded ?? [])];
}

/** A note as a sentence, with how far it reaches. */
export function doubtWords(one: Doubt): string {
  const reach = one.scope === "pass" ? "" : ` (every pass of this ${one.scope})`;
  if (one.kind === "not recorded") return `${one.sensor}: shown, not recorded; ${one.reason}${reach}`;
  return `${one.sensor}: ${one.kind}, in no figure; ${one.reason}${reach}`;
}

function DoubtDialog({ pass, trace, onClose }: { pass: string; trace: TraceShape; onClose: () => void }) {
  const run = useAct();
  const may = useMay();
  const { doubts } = useVocabulary();
  const [kind, setKind] = useState("wrong");
  const shown = kind === "not recorded";
  return (
    <CreateDialog<{ id: number }>
      title="A sensor that is not to be believed"
      path={`/api/passes/${pass}/doubts`}
      submit="Note it"
      onMade={(made) => {
        void run(() => Promise.resolve(), {
          said: "Noted; figures follow.",
          made: "pass",
          undo: () => act("DELETE", `/api/doubts/${made.id}`),
        });
        onClose();
      }}
      onClose={onClose}
    >
      <div className="grid gap-x-3 sm:grid-cols-2">
        <Field label="What is the matter">
          <select name="kind" value={kind} onChange={(event) => setKind(event.target.value)}>
            {doubts.map((one) => (
              <option key={one} value={one}>
                {one === "not recorded" ? "shown, not recorded" : one}
              </option>
            ))}
          </select>
        </Field>
        <Field label="Sensor">
          {shown ? (
            <input name="sensor" required maxLength={80} />
          ) : (
            <select name="sensor">
              {trace.lanes
                .filter((lane) => !lane.doubted.length)
                .map((lane) => (
                  <option key={lane.name}>{lane.name}</option>
                ))}
            </select>
          )}
        </Field>
      </div>
      <Field label={shown ? "Which tool shows it, and what" : "Why"}>
        <input name="reason" required maxLength={300} />
      </Field>
      <Field label="How far it reaches">
        <select name="scope">
          {SCOPES.filter(([scope]) => scope !== "workload" || may("edit_workloads")).map(([scope, words]) => (
            <option key={scope} value={scope}>
              {words}
            </option>
          ))}
        </select>
      </Field>
      <p className="text-note text-quiet">
        What was recorded stays and is shown with this note; no figure and no finding rests on it.
      </p>
    </CreateDialog>
  );
}
