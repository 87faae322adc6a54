interface Props {
  points: (number | null)[];
  width?: number;
  height?: number;
}

/** The shape of a series at a glance, without an axis. */
export function Shape({ points, width = 150, height = 26 }: Props) {
  const known = points.filter((one): one is number => one !== null);
  if (known.length < 2) return <span className="text-small text-quiet">no numbers</span>;
  const low = Math.min(...known);
  const high = Math.max(...known);
  const y = (value: number) => height - 2 - ((value - low) / Math.max(1e-12, high - low)) * (height - 4);
  const path = points
    .map((one, at) => (one === null ? "" : `${(at / (points.length - 1)) * width},${y(one).toFixed(1)}`))
    .filter(Boolean)
    .join(" ");
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      aria-hidden="true"
      className="shrink-0"
    >
      <polyline points={path} fill="none" stroke="var(--color-ink)" strokeWidth="1.1" />
    </svg>
  );
}
