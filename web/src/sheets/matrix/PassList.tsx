import type { CellDetail, PassShape, ProgressCell } from "../../api/client";
import { act } from "../../api/acts";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { When } from "../../design/When";
import { Pip, type PipState } from "../../marks/Pips";
import { bytes, count, duration, figure, withUnit } from "../../marks/words";
import { columnOf } from "../../api/lookup";
import { Correct } from "./Correct";
import { hasTrace } from "./pane/chosen";
import { Hands } from "./pane/Hands";
import { PassNotes } from "./PassNotes";
import type { CellPlace } from "./place";
import { useMatrix, useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { grouped } from "../../design/writing";

interface Props {
  cell: CellPlace;
  detail: CellDetail | undefined;
  shown: string | undefined;
  titled: boolean;
  onShow: (id: string) => void;
  onAside?: (pass: PassShape) => void;
  /** Passes that are laid over the shown ones. */
  over: string[];
  onOver: (id: string) => void;
}

const POOLED: Record<string, string> = { low_1pct: "1 % low", low_01pct: "0.1 % low" };

const REMARKS: Record<string, string> = {
  set_aside: "Set aside",
  taken_back: "Taken back",
  corrected: "Put right",
  read_again: "Output read again",
  regrouped: "Moved",
  told: "Told otherwise",
};

/** The state of a pass as Progress shows it; until that is read anew, what the pass itself says. */
function stateOf(pass: PassShape, pips: ProgressCell["pips"]): PipState {
  if (pass.set_aside) return "set_aside";
  if (pass.outcome !== "completed") return "failed";
  if (pass.run_group) return "first";
  const told = pips.find((pip) => pip.pass_id === pass.id)?.state;
  return told === "flagged" || told === "blocked" ? told : "kept";
}

/** The passes of a cell: outcome, when, what was done to them, their figures and captures. */
export function PassList({ cell, detail, shown, titled, onShow, onAside, over, onOver }: Props) {
  const review = useReview();
  const { progress } = useMatrix();
  if (!detail) return null;
  const pips = progress.find((row) => row.test === cell.test)?.cells[String(cell.column)]?.pips ?? [];
  return (
    <div className="mb-3">
      {titled && <h3 className="text-note font-semibold">{columnOf(review, cell.column)?.label}</h3>}
      <ul className="border-t border-line">
        {detail.passes.map((pass) => (
          <li
            key={pass.id}
            className={`border-b border-line py-1 text-note ${pass.id === shown ? "bg-paper" : ""}`}
          >
            <div className="flex items-center gap-2">
              <Pip state={stateOf(pass, pips)} />
              <button
                type="button"
                aria-pressed={pass.id === shown}
                className={pass.id === shown ? "font-semibold" : "underline decoration-line"}
                onClick={() => onShow(pass.id)}
              >
                pass {pass.number}
              </button>
              <span className="text-quiet">
                {pass.outcome !== "completed"
                  ? pass.outcome_words
                  : pass.duration_s === null
                    ? "length unknown"
                    : duration(pass.duration_s)}
                , <When at={pass.started_at} />
                {pass.time_doubt && " ⚑ doubtful time"}
              </span>
              {pass.id !== shown && hasTrace(pass) && (
                <Button
                  kind="link"
                  className="ml-auto"
                  aria-pressed={over.includes(pass.id)}
                  aria-label={`${over.includes(pass.id) ? "take off" : "lay over"} the shown one: pass ${pass.number}`}
                  onClick={() => onOver(pass.id)}
                >
                  {over.includes(pass.id) ? "take off" : "lay over"}
                </Button>
              )}
              {onAside && pass.outcome === "completed" && (
                <Button
                  kind="link"
                  className={pass.id !== shown && hasTrace(pass) ? "" : "ml-auto"}
                  onClick={() => onAside(pass)}
                >
                  {pass.set_aside ? "take back" : "set aside"}
                </Button>
              )}
            </div>
            {pass.recounting && (
              <p className="pl-6 text-small">being computed anew; these figures follow what counted before</p>
            )}
            {pass.stability && (
              <p className={`pl-6 text-small ${pass.stability.startsWith("not stable") ? "text-mark" : ""}`}>
                {pass.stability}
              </p>
            )}
            {pass.note && <p className="pl-6 text-small text-quiet">{pass.note}</p>}
            {pass.action && <p className="pl-6 text-small">Done about it: {pass.action}</p>}
            {pass.fallback && <p className="pl-6 text-small">Ran instead: {pass.fallback}</p>}
            {pass.run_group && (
              <p className="pl-6 text-small">first run after a start, compared with its like only</p>
            )}
            {pass.remarks.map((remark) => (
              <p key={remark.at} className="pl-6 text-small">
                {REMARKS[remark.act]} by {remark.by}
                {remark.reason && `: ${remark.reason}`}
              </p>
            ))}
            {pass.recorder && (
              <p className="pl-6 text-small text-quiet">
                run {pass.recorder === "off" ? "without" : "with"} the recorder, to learn what it costs; not
                averaged
              </p>
            )}
            <Ranges pass={pass} />
            {pass.id === shown && (
              <>
                <Details pass={pass} />
                <Hands pass={pass} />
                <PassNotes pass={pass} />
              </>
            )}
          </li>
        ))}
      </ul>
      {detail.pooled_lows.map((low) => (
        <p key={low.metric} className="mt-1 text-note">
          Pooled {POOLED[low.metric]} over the {grouped(low.frames)} frames of {low.passes} passes:{" "}
          <strong>{figure(low.value)} fps</strong>
          {low.low !== null && low.high !== null && `, between ${figure(low.low)} and ${figure(low.high)}`}
        </p>
      ))}
    </div>
  );
}

/** Ranges that were set aside, also those that count again. */
function Ranges({ pass }: { pass: PassShape }) {
  const may = useMay();
  const run = useAct();
  return pass.ranges.map((one) => (
    <p key={one.id} className="pl-6 text-small">
      <span className={one.back_at ? "text-quiet" : "line-through"}>
        {figure(one.start_s)} to {figure(one.end_s)} s
      </span>{" "}
      set aside by {one.by}: {one.reason}
      {one.back_at
        ? `; taken back by ${one.back_by}`
        : may("set_aside") && (
            <Button
              kind="link"
              className="ml-2"
              onClick={() =>
                void run(() => act("DELETE", `/api/ranges/${one.id}`), {
                  said: `${figure(one.start_s)} to ${figure(one.end_s)} s count again.`,
                  made: "pass",
                })
              }
            >
              take back
            </Button>
          )}
    </p>
  ));
}

function Details({ pass }: { pass: PassShape }) {
  const may = useMay();
  return (
    <div className="pl-6">
      {pass.figures.length > 0 && (
        <details open={pass.origin === "typed"}>
          <summary className="text-small text-quiet">all {pass.figures.length} figures</summary>
          <table className="w-full text-small">
            <tbody>
              {pass.figures.map((one) => (
                <tr key={one.metric}>
                  <th scope="row" className="pr-2 text-left font-normal text-quiet">
                    {one.label}
                  </th>
                  <td className="text-right whitespace-nowrap">
                    {one.bound && `${one.bound} `}
                    {withUnit(one.value, one.unit)}
                    {one.half_width ? ` ± ${figure(one.half_width, 2)}` : ""}
                    {one.thin && " thin"}
                    {one.obtained === "typed" && (
                      <div className="text-quiet">
                        {one.method}
                        {may("record") && <Correct pass={pass} figureOf={one} />}
                      </div>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </details>
      )}
      {pass.captures.length > 0 && (
        <details>
          <summary className="text-small text-quiet">{count(pass.captures.length, "capture")}</summary>
          <ul className="text-small">
            {pass.captures.map((capture) => (
              <li key={capture.id} className="flex justify-between gap-2">
                {capture.kind === "output" ? (
                  <a
                    className="underline"
                    href={`/api/captures/${capture.id}.csv`}
                    target="_blank"
                    rel="noreferrer"
                  >
                    {capture.name}, as the program wrote it
                  </a>
                ) : (
                  <a className="underline" href={`/api/captures/${capture.id}.csv`} download>
                    {capture.name}
                  </a>
                )}
                <span className="text-quiet">{bytes(capture.bytes)} stored</span>
              </li>
            ))}
          </ul>
          {may("record") && pass.captures.some((capture) => capture.kind === "output") && (
            <ReadAgain pass={pass} />
          )}
        </details>
      )}
    </div>
  );
}

/** After a reading rule was mended: the kept output is read by the rules of today. */
function ReadAgain({ pass }: { pass: PassShape }) {
  const run = useAct();
  return (
    <Button
      kind="link"
      className="text-small"
      onClick={() =>
        void run(() => act("POST", `/api/passes/${pass.id}/read-again`), {
          said: "The output was read by the rules of today; what has changed stands with the pass.",
          made: "pass",
        })
      }
    >
      read the output again by today's rules
    </Button>
  );
}
