import { linear } from "./chart/scales";
import { sealInk } from "./Seal";
import { figure, withUnit } from "./words";

export interface ScaledPass {
  id: string;
  number: number;
  value: number;
  aside: boolean;
}

interface Lane {
  position: number;
  label: string;
  passes: ScaledPass[];
  centre: number | null;
  low: number | null;
  high: number | null;
}

interface Props {
  lanes: Lane[];
  unit: string;
  label: string;
  chosen: string[];
  onChoose: (id: string) => void;
  width?: number;
}

const LANE = 30;
const LEFT = 8;

/** The passes of one or two cells on a common scale, with the centre and its interval. Set-aside passes are hollow. */
export function PassScale({ lanes, unit, label, chosen, onChoose, width = 300 }: Props) {
  const all = lanes.flatMap((lane) => [
    ...lane.passes.map((pass) => pass.value),
    ...(lane.low === null || lane.high === null ? [] : [lane.low, lane.high]),
  ]);
  if (!all.length) return null;
  const least = Math.min(...all);
  const most = Math.max(...all);
  const pad = (most - least || Math.abs(most) * 0.02 || 1) * 0.06;
  const x = linear([least - pad, most + pad], [LEFT, width - LEFT]);
  const height = lanes.length * LANE + 20;
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      role="group"
      aria-label={`Passes by ${label}`}
    >
      {lanes.map((lane, at) => {
        const y = at * LANE + LANE / 2;
        const ink = sealInk(lane.position);
        return (
          <g key={lane.position}>
            <line x1={LEFT} x2={width - LEFT} y1={y} y2={y} stroke="var(--color-line)" />
            {lane.low !== null && lane.high !== null && (
              <rect
                x={x(lane.low)}
                width={Math.max(1, x(lane.high) - x(lane.low))}
                y={y - 8}
                height="16"
                fill="var(--color-band)"
              />
            )}
            {lane.centre !== null && (
              <line
                x1={x(lane.centre)}
                x2={x(lane.centre)}
                y1={y - 9}
                y2={y + 9}
                stroke={ink}
                strokeWidth="1.6"
              />
            )}
            {lane.passes.map((pass) => (
              <circle
                key={pass.id}
                cx={x(pass.value)}
                cy={y}
                r={chosen.includes(pass.id) ? 6 : 4.5}
                fill={pass.aside ? "var(--color-sheet)" : ink}
                stroke={chosen.includes(pass.id) ? "var(--color-mark)" : ink}
                strokeWidth={chosen.includes(pass.id) ? 2.4 : 1.2}
                className="cursor-pointer"
                onClick={() => onChoose(pass.id)}
              >
                <title>
                  {`${lane.label}, pass ${pass.number}: ${withUnit(pass.value, unit, 4)}${pass.aside ? ", set aside" : ""}`}
                </title>
              </circle>
            ))}
          </g>
        );
      })}
      <text x={LEFT} y={height - 4} fontSize="11.5" fill="var(--color-quiet)">
        {figure(least)}
      </text>
      <text x={width - LEFT} y={height - 4} fontSize="11.5" textAnchor="end" fill="var(--color-quiet)">
        {withUnit(most, unit)}
      </text>
    </svg>
  );
}
