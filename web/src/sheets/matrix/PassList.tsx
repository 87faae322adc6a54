import type { CellDetail, PassShape, ReviewShape } from "../../api/client";
import { Button } from "../../design/Button";
import { When } from "../../design/When";
import { Pip } from "../../marks/Pips";
import { bytes, count, duration, figure, withUnit } from "../../marks/words";
import { columnOf } from "../Matrix";
import type { CellPlace } from "./place";

interface Props {
  review: ReviewShape;
  cell: CellPlace;
  detail: CellDetail | undefined;
  shown: string | undefined;
  titled: boolean;
  onShow: (id: string) => void;
  onAside?: (pass: PassShape) => void;
}

const POOLED: Record<string, string> = { low_1pct: "1 % low", low_01pct: "0.1 % low" };

/** The passes of a cell: outcome, when, what was done to them, their figures and captures. */
export function PassList({ review, cell, detail, shown, titled, onShow, onAside }: Props) {
  if (!detail) return null;
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
              <Pip state={pass.set_aside ? "set_aside" : pass.outcome === "completed" ? "kept" : "failed"} />
              <button
                type="button"
                aria-pressed={pass.id === shown}
                className={pass.id === shown ? "font-semibold" : "underline decoration-line"}
                onClick={() => onShow(pass.id)}
              >
                pass {pass.number}
              </button>
              <span className="text-quiet">
                {pass.outcome === "completed" ? duration(pass.duration_s) : pass.outcome_words},{" "}
                <When at={pass.started_at} />
              </span>
              {onAside && pass.outcome === "completed" && (
                <Button kind="link" className="ml-auto" onClick={() => onAside(pass)}>
                  {pass.set_aside ? "take back" : "set aside"}
                </Button>
              )}
            </div>
            {pass.note && <p className="pl-6 text-small text-quiet">{pass.note}</p>}
            {pass.remarks.map((remark) => (
              <p key={remark.at} className="pl-6 text-small">
                {remark.act === "set_aside" ? "Set aside" : "Taken back"} by {remark.by}
                {remark.reason && `: ${remark.reason}`}
              </p>
            ))}
            {pass.id === shown && <Details pass={pass} />}
          </li>
        ))}
      </ul>
      {detail.pooled_lows.map((low) => (
        <p key={low.metric} className="mt-1 text-note">
          Pooled {POOLED[low.metric]} over the {low.frames.toLocaleString("en-GB")} frames of {low.passes}{" "}
          passes: <strong>{figure(low.value)} fps</strong>
          {low.low !== null && low.high !== null && `, between ${figure(low.low)} and ${figure(low.high)}`}
        </p>
      ))}
    </div>
  );
}

function Details({ pass }: { pass: PassShape }) {
  return (
    <div className="pl-6">
      {pass.figures.length > 0 && (
        <details>
          <summary className="text-small text-quiet">all {pass.figures.length} figures</summary>
          <table className="w-full text-small">
            <tbody>
              {pass.figures.map((one) => (
                <tr key={one.metric}>
                  <th scope="row" className="pr-2 text-left font-normal text-quiet">
                    {one.label}
                  </th>
                  <td className="text-right whitespace-nowrap">
                    {withUnit(one.value, one.unit)}
                    {one.thin && " thin"}
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
                <a className="underline" href={`/api/captures/${capture.id}.csv`} download>
                  {capture.name}
                </a>
                <span className="text-quiet">{bytes(capture.bytes)} stored</span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}
