const INKS = ["a", "b", "c", "d", "e", "f", "g", "h"] as const;

/** Outlines in a box of 24, in the order of the letters. */
const SHAPES = [
  "M4 4h16v16H4z",
  "M12 3a9 9 0 1 1 0 18a9 9 0 1 1 0-18z",
  "M12 2.5L22 20.5H2z",
  "M12 2L22 12L12 22L2 12z",
  "M12 2.5L21.5 9.5L18 20.5H6L2.5 9.5z",
  "M7 3.5h10l5 8.5l-5 8.5H7l-5-8.5z",
  "M4 3h16v9c0 5-4 8-8 9.5C8 20 4 17 4 12z",
  "M12 2c4 5 7 8 7 12a7 7 0 0 1-14 0c0-4 3-7 7-12z",
];

export function sealLetter(position: number): string {
  const letter = String.fromCharCode(65 + (position % 26));
  return position < 26 ? letter : `A${letter}`;
}

export function sealInk(position: number): string {
  return `var(--color-seal-${INKS[position % INKS.length]})`;
}

interface Props {
  position: number;
  label: string;
  baseline?: boolean;
  size?: number;
}

/** The seal of a configuration: a letter in a shape and an ink. The baseline's wears a ring. */
export function Seal({ position, label, baseline = false, size = 22 }: Props) {
  const letter = sealLetter(position);
  return (
    <svg
      width={size}
      height={size}
      viewBox="-2 -2 28 28"
      role="img"
      aria-label={`${letter}, ${label}${baseline ? ", the baseline" : ""}`}
      className="inline-block shrink-0 align-middle"
    >
      {baseline && (
        <rect
          x="0"
          y="0"
          width="24"
          height="24"
          rx="3"
          fill="none"
          stroke="var(--color-ink)"
          strokeWidth="1.6"
        />
      )}
      <g transform={baseline ? "translate(2.4 2.4) scale(0.8)" : undefined}>
        <Outline position={position} />
      </g>
    </svg>
  );
}

/** A seal within a chart, its middle at a point. */
export function SealMark({ x, y, position, size }: { x: number; y: number; position: number; size: number }) {
  return (
    <g transform={`translate(${x - size / 2} ${y - size / 2}) scale(${size / 24})`} aria-hidden="true">
      <Outline position={position} />
    </g>
  );
}

function Outline({ position }: { position: number }) {
  const letter = sealLetter(position);
  const low = position % SHAPES.length === 2 || position % SHAPES.length === 7;
  return (
    <>
      <path d={SHAPES[position % SHAPES.length] ?? SHAPES[0]} fill={sealInk(position)} />
      <text
        x="12"
        y={low ? 18.2 : 16.4}
        textAnchor="middle"
        fontSize={letter.length > 1 ? 9 : low ? 10.5 : 12}
        fontWeight="700"
        fill="var(--color-on-seal)"
      >
        {letter}
      </text>
    </>
  );
}
