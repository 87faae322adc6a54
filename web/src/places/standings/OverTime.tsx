import { useQuery } from "@tanstack/react-query";
import type { Shapes } from "../../api/client";
import { overTimeQuery } from "../../api/standings";
import { sealInk } from "../../marks/Seal";
import { verdictInk } from "../../marks/VersusMark";
import { bare, withUnit } from "../../marks/words";
import { Failed, Loading } from "../../shell/States";
import { dayWords } from "./day";
import { warmthUnit } from "../../design/writing";

interface Props {
  workload: string;
  params: URLSearchParams;
}

const WIDTH = 980;
const HEIGHT = 300;
const LEFT = 56;
const RIGHT = 230;
const TOP = 18;
const BOTTOM = 40;
const DASHES = ["", "6 4", "2 3", "9 3 2 3"];

/** The results of one machine over its days, with what changed between them and what each change cost. */
export function OverTime({ workload, params }: Props) {
  const query = useQuery(overTimeQuery(workload, params));
  if (query.isPending) return <Loading />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const { lines, changes, system, unit } = query.data;
  if (!lines.length) return <p className="font-serif text-quiet">No result of this choice has a figure.</p>;
  return (
    <>
      <h2 className="mb-1 font-serif text-lead font-semibold">{system} over its days</h2>
      <Days lines={lines} changes={changes} unit={unit} />
      {changes.length === 0 ? (
        <p className="text-note text-quiet">
          Each configuration of it was measured once; nothing has changed yet.
        </p>
      ) : (
        <ol className="mt-3 border-t-2 border-ink">
          {changes.map((one) => (
            <li
              key={`${one.since} ${one.until}`}
              className="grid grid-cols-[80px_minmax(0,1fr)_minmax(0,2fr)] gap-4 border-b border-line py-2"
            >
              <span className="text-note text-quiet">{dayWords(one.at)}</span>
              <span className="text-note">
                <strong>{one.label}</strong>
                {one.what.length > 0
                  ? one.what.map((words) => (
                      <span key={words} className="block">
                        {words}
                      </span>
                    ))
                  : ": measured again, nothing of it is known to have changed"}
              </span>
              <span>
                {one.sentence || one.reasons.map((reason) => reason.words).join("; ")}{" "}
                {one.told && (
                  <strong className="whitespace-nowrap" style={{ color: verdictInk(one.verdict) }}>
                    {one.told}
                  </strong>
                )}
              </span>
            </li>
          ))}
        </ol>
      )}
    </>
  );
}

function Days({
  lines,
  changes,
  unit,
}: {
  lines: Shapes["OverTimeLine"][];
  changes: Shapes["StandingChange"][];
  unit: string;
}) {
  const points = lines.flatMap((line) => line.points);
  const times = points.map((point) => Date.parse(point.at));
  const values = points.flatMap((point) => [point.low ?? point.centre, point.high ?? point.centre]);
  const [from, to] = [Math.min(...times), Math.max(...times)];
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const pad = 0.08 * (high - low || Math.abs(high) || 1);
  const x = (at: number) =>
    from === to
      ? (LEFT + WIDTH - RIGHT) / 2
      : LEFT + 10 + ((at - from) / (to - from)) * (WIDTH - LEFT - RIGHT - 20);
  const y = (value: number) =>
    HEIGHT - BOTTOM - ((value - low + pad) / (high - low + 2 * pad)) * (HEIGHT - TOP - BOTTOM);
  const ticks = [low, (low + high) / 2, high];
  const days = [...new Set(times.map((at) => new Date(at).toDateString()))].map((day) => Date.parse(day));
  const named = days.filter((_, at) => at % Math.ceil(days.length / 8) === 0);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="w-full max-w-[980px]"
      role="img"
      aria-label="Results by day"
    >
      {ticks.map((value) => (
        <g key={value}>
          <line x1={LEFT} x2={WIDTH - RIGHT} y1={y(value)} y2={y(value)} stroke="var(--color-line)" />
          <text x={LEFT - 6} y={y(value) + 4} textAnchor="end" className="fill-quiet text-[11px]">
            {bare(value, unit)}
          </text>
        </g>
      ))}
      <text x={LEFT} y={TOP - 6} className="fill-quiet text-[11px]">
        {warmthUnit(unit)}
      </text>
      {named.map((at) => (
        <text
          key={at}
          x={Math.max(LEFT, x(Math.max(at, from)))}
          y={HEIGHT - BOTTOM + 20}
          textAnchor="middle"
          className="fill-quiet text-[11px]"
        >
          {dayWords(new Date(at).toISOString())}
        </text>
      ))}
      {changes
        .filter((one) => one.what.length > 0)
        .map((one) => (
          <line
            key={one.until}
            x1={x(Date.parse(one.at))}
            x2={x(Date.parse(one.at))}
            y1={TOP}
            y2={HEIGHT - BOTTOM}
            stroke="var(--color-mark)"
            strokeDasharray="3 3"
          >
            <title>{one.what.join("; ")}</title>
          </line>
        ))}
      {lines.map((line, at) => (
        <g key={line.label} stroke={sealInk(line.position)} fill={sealInk(line.position)}>
          <polyline
            points={line.points.map((p) => `${x(Date.parse(p.at))},${y(p.centre)}`).join(" ")}
            fill="none"
            strokeWidth="1.4"
            strokeDasharray={DASHES[at % DASHES.length]}
          />
          {line.points.map((p) => (
            <g key={p.id}>
              {p.low !== null && p.high !== null && (
                <line
                  x1={x(Date.parse(p.at))}
                  x2={x(Date.parse(p.at))}
                  y1={y(p.low)}
                  y2={y(p.high)}
                  strokeWidth="2"
                />
              )}
              <circle cx={x(Date.parse(p.at))} cy={y(p.centre)} r="4">
                <title>{`${p.title}: ${withUnit(p.centre, unit)}`}</title>
              </circle>
            </g>
          ))}
        </g>
      ))}
      {spread(lines.map((line) => y(line.points[line.points.length - 1]?.centre ?? low))).map((at, index) => (
        <text key={lines[index]?.label} x={WIDTH - RIGHT + 8} y={at + 4} className="fill-ink text-[12px]">
          {clipped(lines[index]?.label ?? "")}
        </text>
      ))}
    </svg>
  );
}

const MOST_LABEL = 34;

function clipped(label: string): string {
  return label.length > MOST_LABEL ? `${label.slice(0, MOST_LABEL - 1)}…` : label;
}

const APART = 14;

/** Heights that keep their order and do not lie over one another. */
export function spread(heights: number[]): number[] {
  const order = heights.map((at, index) => ({ at, index })).sort((a, b) => a.at - b.at);
  let least = Number.NEGATIVE_INFINITY;
  const placed = [...heights];
  for (const one of order) {
    const at = Math.max(one.at, least + APART);
    placed[one.index] = at;
    least = at;
  }
  return placed;
}
