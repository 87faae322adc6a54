export type PipState = "kept" | "first" | "owed" | "running" | "flagged" | "failed" | "set_aside" | "blocked";

const WORDS: Record<PipState, string> = {
  kept: "kept",
  first: "first run",
  owed: "owed",
  running: "running",
  flagged: "flagged",
  failed: "failed",
  set_aside: "set aside",
  blocked: "not averaged",
};

interface OnePip {
  key: string;
  state: PipState;
  words?: string;
}

const STEP = 18;

/**
 * Passes in a row: filled = kept, open diamond = first run apart, ring = owed, half = running, ringed = flagged, cross = failed, struck through = set
 * aside, barred ring = not averaged until somebody decides. One drawing for all, since a full matrix has thousands.
 */
export function Pips({ pips }: { pips: OnePip[] }) {
  const width = Math.max(1, pips.length * STEP);
  return (
    <svg width={width} height="16" viewBox={`0 0 ${width} 16`} className="inline-block">
      {pips.map((pip, at) => (
        <g
          key={pip.key}
          role="img"
          aria-label={pip.words ?? WORDS[pip.state]}
          transform={`translate(${at * STEP} 0)`}
        >
          {pip.words && <title>{pip.words}</title>}
          {drawing(pip.state)}
        </g>
      ))}
    </svg>
  );
}

/** A single pass. */
export function Pip({ state, words }: { state: PipState; words?: string }) {
  return <Pips pips={[{ key: state, state, words }]} />;
}

function drawing(state: PipState) {
  const ink = "var(--color-ink)";
  const mark = "var(--color-mark)";
  switch (state) {
    case "kept":
      return <circle cx="8" cy="8" r="4.6" fill={ink} />;
    case "first":
      return <path d="M8 2.8L13.2 8L8 13.2L2.8 8z" fill="none" stroke={ink} strokeWidth="1.6" />;
    case "owed":
      return <circle cx="8" cy="8" r="4.2" fill="none" stroke="var(--color-quiet)" strokeWidth="1.1" />;
    case "running":
      return (
        <>
          <circle cx="8" cy="8" r="4.2" fill="none" stroke="var(--color-better)" strokeWidth="1.2" />
          <path d="M8 3.8a4.2 4.2 0 0 1 0 8.4z" fill="var(--color-better)" />
        </>
      );
    case "flagged":
      return (
        <>
          <circle cx="8" cy="8" r="6.8" fill="none" stroke={mark} strokeWidth="1.4" />
          <circle cx="8" cy="8" r="4.2" fill={ink} />
        </>
      );
    case "failed":
      return <path d="M4.5 4.5l7 7m0-7l-7 7" stroke={mark} strokeWidth="2.2" />;
    case "blocked":
      return (
        <>
          <circle cx="8" cy="8" r="5.4" fill="none" stroke={mark} strokeWidth="1.6" />
          <path d="M4.6 11.4l6.8 -6.8" stroke={mark} strokeWidth="1.6" />
        </>
      );
    case "set_aside":
      return (
        <>
          <circle cx="8" cy="8" r="4.4" fill="var(--color-line)" />
          <path d="M0.5 8h15" stroke="var(--color-level)" strokeWidth="1.6" />
        </>
      );
  }
}

/** What each pip means. */
export function PipLegend() {
  const states: PipState[] = [
    "kept",
    "first",
    "owed",
    "running",
    "flagged",
    "failed",
    "set_aside",
    "blocked",
  ];
  return (
    <span className="flex flex-wrap items-center gap-x-3 text-note text-quiet">
      {states.map((state) => (
        <span key={state} className="flex items-center gap-1">
          <Pip state={state} /> {WORDS[state]}
        </span>
      ))}
    </span>
  );
}
