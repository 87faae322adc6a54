import { useQueries } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import type { ReviewShape, TestShape } from "../../../api/client";
import { act, tagOf } from "../../../api/acts";
import { matchQuery, traceQuery, type Stretch } from "../../../api/queries";
import { useAct } from "../../../design/useAct";
import { moved, type TracedCell } from "../../../marks/overlay";
import { traceSvg } from "../../../marks/picture";
import type { Cuts } from "../../../marks/trace/CutHandles";
import { Trace } from "../../../marks/trace/Trace";
import { figure } from "../../../marks/words";
import { Loading } from "../../../shell/States";
import { SavePicture } from "../SavePicture";
import { captionOf } from "./caption";
import { hasFrames, hasTrace, type ChosenPass } from "./chosen";
import { RangeActs } from "./RangeActs";
import { SensorsOf } from "./SensorsOf";
import { useLast, useSettled, useSteady } from "./useTraced";
import { useMatrix, useReview } from "../../../api/review";
import { useMay } from "../../../api/session";

interface Props {
  test: TestShape | undefined;
  chosen: ChosenPass[];
}

/** The traces of all chosen passes on one time axis, with what can be done to a stretch of them. */
export function TraceView({ test, chosen }: Props) {
  const may = useMay();
  const review = useReview();
  const matrix = useMatrix();
  const run = useAct();
  const [stretch, setStretch] = useState<Stretch | null>(null);
  const [lineUp, setLineUp] = useState("start");
  const asked = useSettled(stretch);
  const drawable = chosen.filter(({ pass }) => hasTrace(pass));
  const first = drawable[0];
  const shifts = useShifts(drawable, lineUp);
  const traced = useQueries({
    queries: drawable.map(({ pass }, at) => {
      const by = shifts[at]?.shift ?? 0;
      return traceQuery(pass.id, asked && { from: Math.max(0, asked.from - by), to: asked.to - by });
    }),
  });
  const onStretch = useCallback((next: Stretch | null) => setStretch(next), []);
  const traces = useLast(
    drawable.map(({ pass }) => pass.id),
    traced.map((one) => one.data),
  );
  const cells: TracedCell[] = drawable.flatMap(({ pass, column, layer }, at) => {
    const trace = traces[at];
    if (!trace) return [];
    return [
      {
        key: pass.id,
        position: column.position,
        label: column.label,
        number: pass.number,
        layer,
        shift: shifts[at]?.shift ?? 0,
        trace,
        marks: pass.marks,
        aside: pass.ranges.filter((one) => !one.back_at),
      },
    ];
  });
  const steady = useSteady(cells);
  const failed = traced.find((one) => one.isError);
  if (failed?.error) return <p className="text-mark">{failed.error.message}</p>;
  if (!drawable.length) {
    return (
      <p className="font-serif text-quiet">
        {chosen.length
          ? "This pass has no trace: it was typed in, or ended before anything was recorded."
          : "No pass here yet. Ask for some, or drop a file of frame times on the cell."}
      </p>
    );
  }
  if (steady.length < drawable.length) return <Loading what="Reading the trace" />;
  const cuts = (next: Cuts) =>
    test &&
    void run(() => act<ReviewShape>("PATCH", `/api/reviews/${review.id}/tests/${test.id}`, next, test.tag), {
      said: `The first ${figure(next.skip_s)} s and the last ${figure(next.end_cut_s)} s of every pass of this test are left out; figures follow.`,
      undo: (saved) =>
        act(
          "PATCH",
          `/api/reviews/${review.id}/tests/${test.id}`,
          { skip_s: test.skip_s, end_cut_s: test.end_cut_s },
          tagOf(saved, test.id),
        ),
      made: "review",
    });
  const whole = Math.max(...steady.map((cell) => cell.trace.duration_s + cell.shift));
  const svg = () =>
    traceSvg(
      steady.map((cell) => ({ ...cell, trace: moved(cell.trace, cell.shift) })),
      stretch ?? { from: 0, to: whole },
      ["graphics use", "busiest core", "temperature", "clock", "power"],
      captionOf(review, matrix, test, chosen, ["frame time in ms, lower is better"]),
    );
  return (
    <div>
      {drawable.length > 1 && (
        <LineUp
          chosen={drawable}
          value={lineUp}
          onChange={setLineUp}
          words={shifts.map((one) => one.words)}
        />
      )}
      <Trace
        cells={steady}
        stretch={stretch}
        onStretch={onStretch}
        onCuts={may("edit_review") && drawable.every(({ cell }) => cell.test === test?.id) ? cuts : undefined}
      />
      <div className="mt-1.5 flex flex-wrap items-center gap-x-4 gap-y-1">
        {first && <RangeActs pass={first.pass} stretch={stretch} shift={shifts[0]?.shift ?? 0} />}
        {first && steady[0] && <SensorsOf pass={first.pass.id} trace={steady[0].trace} />}
        <SavePicture svg={svg} name={`trace-${test?.workload ?? "cell"}`} />
      </div>
    </div>
  );
}

interface Shift {
  shift: number;
  words: string;
}

/** By how much each trace is moved: not at all, to a mark that all have, or to where it matches the first best. */
function useShifts(chosen: ChosenPass[], lineUp: string): Shift[] {
  const first = chosen[0];
  const matching = lineUp === "match";
  const matches = useQueries({
    queries: chosen.map(({ pass }) => ({
      ...matchQuery(first?.pass.id ?? "", pass.id),
      enabled:
        matching &&
        pass.id !== first?.pass.id &&
        hasFrames(pass) &&
        first !== undefined &&
        hasFrames(first.pass),
    })),
  });
  const marked = (at: number) => chosen[at]?.pass.marks.find((mark) => mark.label === lineUp.slice(5));
  return chosen.map((_, at) => {
    if (at === 0 || lineUp === "start") return { shift: 0, words: "" };
    if (!matching) {
      const [of, own] = [marked(0), marked(at)];
      return of && own ? { shift: of.start_s - own.start_s, words: "" } : { shift: 0, words: "no such mark" };
    }
    const match = matches[at]?.data;
    if (!match) return { shift: 0, words: "" };
    const alike = `alike by ${(100 * match.correlation).toFixed(0)} %`;
    return { shift: match.shift_s, words: `${figure(match.shift_s)} s, ${alike}` };
  });
}

interface LineUpProps {
  chosen: ChosenPass[];
  value: string;
  onChange: (value: string) => void;
  words: string[];
}

function LineUp({ chosen, value, onChange, words }: LineUpProps) {
  const labels = [...new Set(chosen[0]?.pass.marks.map((mark) => mark.label))];
  return (
    <label className="mb-1 flex items-center gap-2 text-note text-quiet">
      Line up
      <select
        value={value}
        onChange={(event) => onChange(event.target.value)}
        className="border border-line bg-sheet px-1 py-0.5"
      >
        <option value="start">at the start</option>
        <option value="match">where they match best</option>
        {labels.map((label) => (
          <option key={label} value={`mark ${label}`}>
            at the mark “{label}”
          </option>
        ))}
      </select>
      {words.filter(Boolean).join("; ")}
    </label>
  );
}
