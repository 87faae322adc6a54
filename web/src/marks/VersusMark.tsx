interface Props {
  effect: number;
  low: number | null;
  high: number | null;
  verdict: string;
  margin: number;
  /** Half of the axis, in the same unit as the effect. */
  reach: number;
  width?: number;
}

const HEIGHT = 34;
const MIDDLE = HEIGHT / 2;
// Room for half a mark at either end of the axis.
const EDGE = 7;

const INK: Record<string, string> = {
  ahead: "var(--color-better)",
  "slightly ahead": "var(--color-better)",
  level: "var(--color-level)",
  behind: "var(--color-worse)",
  "slightly behind": "var(--color-worse)",
};

/**
 * An interval on a common axis around the baseline, the margin as a band. Arrowhead = ahead or behind, square = level,
 * open circle with a dotted bar = undecided. What lies beyond the axis is drawn at its edge with two strokes.
 */
export function VersusMark({ effect, low, high, verdict, margin, reach, width = 130 }: Props) {
  const inner = width - 2 * EDGE;
  const x = (value: number) =>
    EDGE + ((Math.max(-reach, Math.min(reach, value)) + reach) / (2 * reach)) * inner;
  const ink = verdictInk(verdict);
  const at = x(effect);
  const open = !(verdict in INK);
  return (
    <svg
      width={width}
      height={HEIGHT}
      viewBox={`0 0 ${width} ${HEIGHT}`}
      aria-hidden="true"
      className="shrink-0"
    >
      <rect x={x(-margin)} width={x(margin) - x(-margin)} y={0} height={HEIGHT} fill="var(--color-band)" />
      <line x1={width / 2} x2={width / 2} y1={0} y2={HEIGHT} stroke="var(--color-ink)" strokeWidth="1" />
      {low !== null && high !== null && (
        <line
          x1={x(low)}
          x2={x(high)}
          y1={MIDDLE}
          y2={MIDDLE}
          stroke={ink}
          strokeWidth="2.6"
          strokeDasharray={open ? "2.6 2.6" : undefined}
        />
      )}
      {verdictPoint(at, verdict, ink, MIDDLE)}
      {Math.abs(effect) > reach && <Beyond at={at} ink={ink} inward={effect > 0 ? -1 : 1} />}
    </svg>
  );
}

/** The ink of a verdict; what is not decided has its own. */
export function verdictInk(verdict: string): string {
  return INK[verdict] ?? "var(--color-undecided)";
}

/** The sign of a verdict at a place: arrowhead, square, or open circle. */
export function verdictPoint(at: number, verdict: string, ink: string, middle: number) {
  if (verdict === "level") return <rect x={at - 5} y={middle - 5} width="10" height="10" fill={ink} />;
  if (verdict.endsWith("ahead") || verdict.endsWith("behind")) {
    const tip = verdict.endsWith("ahead") ? 6 : -6;
    return <path d={`M${at + tip} ${middle}L${at - tip} ${middle - 6}V${middle + 6}z`} fill={ink} />;
  }
  return <circle cx={at} cy={middle} r="4.6" fill="var(--color-sheet)" stroke={ink} strokeWidth="1.8" />;
}

function Beyond({ at, ink, inward }: { at: number; ink: string; inward: number }) {
  return (
    <path
      d={`M${at + inward * 12} ${MIDDLE - 7}v14M${at + inward * 16} ${MIDDLE - 7}v14`}
      stroke={ink}
      strokeWidth="1.4"
    />
  );
}

/** Half of an axis that shows most effects in full: a round number, at least four margins. */
export function reachOf(extents: number[], margin: number): number {
  const ordered = [...extents].sort((a, b) => a - b);
  const most = ordered[Math.floor(0.85 * (ordered.length - 1))] ?? 0;
  const wanted = Math.max(4 * margin, most * 1.1);
  const size = 10 ** Math.floor(Math.log10(wanted));
  return [1, 1.5, 2, 3, 4, 5, 7.5, 10].map((step) => step * size).find((step) => step >= wanted) ?? wanted;
}
