interface Props {
  average: number;
  low: number | null;
  high: number | null;
  onePercent: number | null;
  tenthPercent: number | null;
  /** Right end of the common axis. */
  top: number;
  ink: string;
  width?: number;
}

const HEIGHT = 22;
const MIDDLE = HEIGHT / 2;

/** A wedge from the average (wide end) to the 0.1 % low (point), a bar at the 1 % low, the average's interval on its end. */
export function Tail({ average, low, high, onePercent, tenthPercent, top, ink, width = 110 }: Props) {
  const x = (value: number) => (Math.max(0, Math.min(top, value)) / top) * (width - 4) + 2;
  const point = tenthPercent ?? onePercent;
  return (
    <svg
      width={width}
      height={HEIGHT}
      viewBox={`0 0 ${width} ${HEIGHT}`}
      aria-hidden="true"
      className="shrink-0"
    >
      <line x1="0" x2={width} y1={HEIGHT - 0.5} y2={HEIGHT - 0.5} stroke="var(--color-line)" />
      {point !== null && (
        <path
          d={`M${x(average)} ${MIDDLE - 6}V${MIDDLE + 6}L${x(point)} ${MIDDLE}z`}
          fill={ink}
          opacity="0.28"
        />
      )}
      {onePercent !== null && (
        <line
          x1={x(onePercent)}
          x2={x(onePercent)}
          y1={MIDDLE - 6}
          y2={MIDDLE + 6}
          stroke={ink}
          strokeWidth="1.8"
        />
      )}
      {low !== null && high !== null && (
        <rect x={x(low)} width={Math.max(2, x(high) - x(low))} y={MIDDLE - 3} height="6" fill={ink} />
      )}
      {low === null && <circle cx={x(average)} cy={MIDDLE} r="3" fill={ink} />}
    </svg>
  );
}
