import type { Shapes } from "../api/client";
import { XAxis, YAxis, type Tick } from "./chart/Axis";
import { Chart, type ChartPoint } from "./chart/Chart";
import { useNarrow } from "./chart/narrow";
import { GOES_ON, goesOn, Interval } from "./chart/Interval";
import { linear, logarithmic, spanOf, type Scale } from "./chart/scales";
import { SealMark } from "./Seal";
import { onAxis } from "./words";
import { warmthUnit } from "../design/writing";

type Curves = Shapes["CurvesShape"];
type Curve = Shapes["FindingCurve"];
type Axis = Shapes["FindingAxis"];

interface Props {
  curves: Curves;
  label: string;
  /** Where a configuration's seal stands among the letters. */
  positionOf: (column: number) => number | undefined;
  table?: { columns: string[]; rows: string[][] };
  width?: number;
}

const HEIGHT = 344;
const LEFT = 62;
const RIGHT = { wide: 142, narrow: 96 };
const WIDTH = { wide: 680, narrow: 430 };
const TOP = 44;
const BOTTOM = 74;
const MOST_NAMED = 9;
const LABEL_APART = 13;
const MOST_LABEL = { wide: 19, narrow: 11 };
const DASHES = ["6 4", "2 3", "9 3 2 3", "1 5", "12 4", "4 2 1 2", "7 2"];

/** Series of points over two axes, each named where it ends, with intervals, a band that counts as level, and rules. */
export function CurvesChart({ curves, label, positionOf, table, width: asked }: Props) {
  const room = useNarrow() ? "narrow" : "wide";
  const width = asked ?? WIDTH[room];
  const mostLabel = MOST_LABEL[room];
  // Right end of what is drawn; names stand beyond it.
  const edge = width - RIGHT[room];
  // What is spoken of is read before what stands beside it.
  const measured = curves.curves
    .filter((curve) => curve.marks)
    .sort((a, b) => Number(a.faint ?? false) - Number(b.faint ?? false));
  const points = curves.curves.flatMap((curve) => curve.points);
  const xs = points.map((point) => point.x);
  const barred = measured.filter((curve) => !curve.faint).flatMap((curve) => curve.points);
  const ends = barred.flatMap((point) => [point.low ?? point.y, point.high ?? point.y]);
  const ys = spanOf([...points.map((point) => point.y), ...curves.shaded], ends, curves.y.log);
  const x = scaleOf(curves.x, xs, [LEFT + 14, edge - 14]);
  const y = scaleOf(curves.y, ys, [HEIGHT - BOTTOM, TOP]);
  const places = placesOf(measured);
  const named = places.length <= (room === "wide" ? MOST_NAMED : MOST_NAMED / 2);
  const foot = HEIGHT - BOTTOM;
  const readable: ChartPoint[] = measured.flatMap((curve, at) =>
    curve.points
      .filter((point) => point.told)
      .map((point, place) => ({
        key: `${at}.${place}`,
        x: x(point.x),
        y: y(point.y),
        words: measured.length > 1 ? `${curve.label}. ${point.told}` : point.told,
      })),
  );
  const cut = !curves.y.log && !curves.y.zero;
  const [low, high] = [Math.min(...curves.shaded), Math.max(...curves.shaded)];
  return (
    <Chart
      label={label}
      width={width}
      height={HEIGHT}
      points={readable}
      caption={[
        curves.caption,
        cut && " The upright axis does not begin at 0.",
        ends.some((end) => goesOn(y, end, end)) && GOES_ON,
      ]
        .filter(Boolean)
        .join("")}
      table={table}
    >
      {curves.shaded.length > 0 && (
        <rect
          x={LEFT}
          width={edge - LEFT}
          y={y(high)}
          height={Math.max(1, y(low) - y(high))}
          fill="var(--color-band)"
        />
      )}
      <text x={LEFT} y={14} fill="var(--color-quiet)">
        {axisWords(curves.y)}
      </text>
      <YAxis scale={y} unit={curves.y.unit} at={LEFT} across={[LEFT, edge]} ticks={ticksOf(curves.y, y)} />
      {cut && <Cut x={LEFT} y={foot} />}
      <XAxis
        scale={x}
        at={foot}
        across={[TOP, foot]}
        lines="strokes"
        ticks={
          named ? places.map((place) => ({ value: place.x, words: tickWords(curves.x, place.x) })) : undefined
        }
      />
      {named &&
        !measured.some((curve) => curve.seals) &&
        places.map((place) => {
          const position = place.column ? positionOf(place.column) : undefined;
          return (
            position !== undefined && (
              <SealMark key={place.x} x={x(place.x)} y={foot + 32} position={position} size={20} />
            )
          );
        })}
      <text x={(LEFT + edge) / 2} y={HEIGHT - 8} textAnchor="middle" fill="var(--color-quiet)">
        {axisWords(curves.x)}
      </text>
      {rulesOf(curves, x, y, edge)}
      {curves.curves.map((curve, at) => (
        <Series key={curve.label} curve={curve} at={at} x={x} y={y} positionOf={positionOf} />
      ))}
      {endsOf(curves.curves, x, y).map((end) => (
        <g key={end.label}>
          <line
            x1={edge + 3}
            x2={edge + 21}
            y1={end.y - 4}
            y2={end.y - 4}
            stroke={end.faint ? "var(--color-level)" : "var(--color-ink)"}
            strokeWidth={end.faint ? 1.2 : 2.2}
            strokeDasharray={end.dash}
          />
          <text x={edge + 25} y={end.y} fill={end.faint ? "var(--color-quiet)" : "var(--color-ink)"}>
            <title>{end.label}</title>
            {end.label.length > mostLabel ? `${end.label.slice(0, mostLabel - 1)}…` : end.label}
          </text>
        </g>
      ))}
    </Chart>
  );
}

interface SeriesProps {
  curve: Curve;
  at: number;
  x: Scale;
  y: Scale;
  positionOf: Props["positionOf"];
}

function Series({ curve, at, x, y, positionOf }: SeriesProps) {
  const ink = curve.faint ? "var(--color-level)" : "var(--color-ink)";
  const dash = dashFor(curve, at);
  return (
    <g>
      {curve.joined && (
        <polyline
          fill="none"
          stroke={ink}
          strokeWidth={curve.faint ? 1.2 : 2.2}
          strokeDasharray={dash}
          points={curve.points.map((point) => `${x(point.x).toFixed(1)},${y(point.y).toFixed(1)}`).join(" ")}
        />
      )}
      {curve.marks &&
        curve.points.map((point, place) => (
          <g key={place}>
            {!curve.faint && point.low !== null && point.high !== null && (
              <Interval
                scale={y}
                low={point.low}
                high={point.high}
                along="y"
                at={x(point.x)}
                stroke={ink}
                width={2}
              />
            )}
            {curve.seals ? (
              <SealMark
                x={x(point.x)}
                y={y(point.y)}
                position={positionOf(point.column ?? 0) ?? 0}
                size={22}
              />
            ) : (
              <circle
                cx={x(point.x)}
                cy={y(point.y)}
                r={curve.faint ? 3 : 4.6}
                fill="var(--color-sheet)"
                stroke={ink}
                strokeWidth={curve.faint ? 1.3 : 2.2}
              />
            )}
          </g>
        ))}
    </g>
  );
}

/** Two strokes at the foot of an axis that does not begin at 0. */
function Cut({ x, y }: { x: number; y: number }) {
  return (
    <path
      d={`M${x - 5} ${y - 6}l10 -4M${x - 5} ${y - 10}l10 -4`}
      stroke="var(--color-ink)"
      strokeWidth="1.2"
      fill="none"
    />
  );
}

function rulesOf(curves: Curves, x: Scale, y: Scale, edge: number) {
  return curves.rules.map((rule) =>
    rule.across === "x" ? (
      <g key={`${rule.words}${rule.at}`}>
        {typeof rule.low === "number" && typeof rule.high === "number" && (
          <rect
            x={within(x(rule.low), edge)}
            width={Math.max(0, within(x(rule.high), edge) - within(x(rule.low), edge))}
            y={TOP}
            height={HEIGHT - BOTTOM - TOP}
            fill="var(--color-mark)"
            opacity="0.14"
          />
        )}
        <line
          x1={x(rule.at)}
          x2={x(rule.at)}
          y1={TOP}
          y2={HEIGHT - BOTTOM}
          stroke="var(--color-mark)"
          strokeDasharray="3 3"
        />
        <text
          x={x(rule.at) - 5}
          y={TOP - 4}
          textAnchor={x(rule.at) < LEFT + 90 ? "start" : "end"}
          fill="var(--color-mark)"
          fontWeight="600"
        >
          {rule.words}
        </text>
      </g>
    ) : (
      <g key={`${rule.words}${rule.at}`}>
        <line
          x1={LEFT}
          x2={edge}
          y1={y(rule.at)}
          y2={y(rule.at)}
          stroke="var(--color-mark)"
          strokeDasharray="3 3"
        />
        <text x={LEFT + 4} y={y(rule.at) - 4} fill="var(--color-mark)" fontWeight="600">
          {rule.words}
        </text>
      </g>
    ),
  );
}

interface End {
  label: string;
  y: number;
  faint: boolean;
  dash: string | undefined;
}

/** How a series is stroked: what is computed or stands beside has a dash of its own. */
function dashFor(curve: Curve, at: number): string | undefined {
  return curve.dotted || curve.faint ? DASHES[at % DASHES.length] : undefined;
}

/** A place that may lie beyond the chart, kept in it. */
function within(at: number, edge: number): number {
  return Math.max(LEFT, Math.min(edge, at));
}

/** Where each series is named: at its last point, moved apart where two would lie over one another. */
export function endsOf(curves: Curve[], x: Scale, y: Scale): End[] {
  const ends = curves
    .flatMap((curve, at) => {
      const last = curve.points.reduce<Curve["points"][number] | undefined>(
        (found, point) => (found && x(found.x) >= x(point.x) ? found : point),
        undefined,
      );
      return last
        ? [{ label: curve.label, y: y(last.y) + 4, faint: curve.faint ?? false, dash: dashFor(curve, at) }]
        : [];
    })
    .sort((a, b) => a.y - b.y);
  ends.forEach((end, at) => {
    const above = ends[at - 1];
    if (above && end.y - above.y < LABEL_APART) end.y = above.y + LABEL_APART;
  });
  return ends;
}

/** The places along the first axis at which something was measured, with the configuration that stands there alone. */
function placesOf(measured: Curve[]): { x: number; column: number }[] {
  const found = new Map<number, Set<number>>();
  for (const point of measured.flatMap((curve) => curve.points)) {
    found.set(point.x, (found.get(point.x) ?? new Set()).add(point.column ?? 0));
  }
  return [...found]
    .sort(([a], [b]) => a - b)
    .map(([x, columns]) => ({ x, column: columns.size === 1 ? ([...columns][0] ?? 0) : 0 }));
}

function scaleOf(axis: Axis, values: number[], range: [number, number]): Scale {
  if (axis.log) return logarithmic(padded(values, true), range);
  if (axis.names?.length) return linear([0, Math.max(1, axis.names.length - 1)], range);
  return linear(axis.zero ? [0, ...padded(values, false)] : padded(values, false), range);
}

/** The values with a little room beyond both ends. */
function padded(values: number[], log: boolean): number[] {
  const [low, high] = [Math.min(...values), Math.max(...values)];
  if (log) return [...values, low / 1.06, high * 1.06];
  const room = 0.06 * (high - low);
  return [...values, Math.min(low, low - room), high + room];
}

function ticksOf(axis: Axis, scale: Scale): Tick[] | undefined {
  if (!axis.log) return undefined;
  const [low, high] = scale.ends;
  const wide = high / low > 6;
  const found = scale.ticks.filter((value) => !wide || /^[125]/.test(value.toExponential()));
  return found.map((value) => ({ value, words: onAxis(value, axis.unit, 3) }));
}

function tickWords(axis: Axis, value: number): string {
  const name = axis.names?.[Math.round(value)];
  return name ?? onAxis(value, axis.unit, 4);
}

function axisWords(axis: Axis): string {
  return [axis.label, axis.unit && `in ${warmthUnit(axis.unit)}`, axis.log && "equal ratios"]
    .filter(Boolean)
    .join(", ");
}
