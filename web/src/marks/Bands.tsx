import { useId } from "react";

/** What can limit a second, with the word that fits into a narrow band. The sign of each is a texture, not a hue. */
const SHORT: Record<string, string> = {
  graphics: "graphics",
  "one thread": "one thread",
  "all threads": "all threads",
  "graphics memory": "graphics memory",
  "memory capacity": "memory",
  heat: "heat",
  power: "power",
  "clock held back": "clock",
  "rate cap": "cap",
  storage: "storage",
  "nothing recorded": "no limit found",
  "": "set aside",
};

const TEXTURES: Record<string, string> = {
  graphics: "M0 3h6",
  "one thread": "M0 6L6 0",
  "all threads": "M0 6L6 0M0 0L6 6",
  "graphics memory": "M0 1.5h6M0 4.5h6",
  "memory capacity": "M1.5 0v6M4.5 0v6",
  heat: "M3 2.2v1.6M2.2 3h1.6",
  power: "M3 0v6",
  "clock held back": "M0 0L6 6",
  "rate cap": "M0 .8h6M0 5.2h6",
  storage: "M0 3h3M4.5 3h1.5",
  mixed: "M0 0L3 3",
};

export function bandWords(kind: string): string {
  return SHORT[kind] ?? kind;
}

export interface Banded {
  kind: string;
  from: number;
  to: number;
  words: string;
}

interface Props {
  bands: Banded[];
  /** The ends of the axis in the unit of the bands. */
  from: number;
  to: number;
  height?: number;
  /** Without words in the bands, where they stand beside them anyway. */
  wordless?: boolean;
  label: string;
}

/** Stretches side by side, each with its texture and, where there is room, its word. */
export function Bands({ bands, from, to, height = 15, wordless = false, label }: Props) {
  const id = useId();
  const width = Math.max(1e-9, to - from);
  const kinds = [...new Set(bands.map((band) => band.kind))].filter((kind) => kind in TEXTURES);
  return (
    <div className="relative isolate w-full overflow-hidden" style={{ height }} role="img" aria-label={label}>
      <svg width="0" height="0" className="absolute" aria-hidden="true">
        <defs>
          {kinds.map((kind) => (
            <pattern key={kind} id={idOf(id, kind)} width="6" height="6" patternUnits="userSpaceOnUse">
              <path d={TEXTURES[kind]} stroke="var(--color-level)" strokeWidth="1" fill="none" />
            </pattern>
          ))}
        </defs>
      </svg>
      {bands.map((band) => {
        const left = 100 * Math.max(0, (band.from - from) / width);
        const right = 100 * Math.min(1, (band.to - from) / width);
        if (right <= left) return null;
        return (
          <div
            key={`${band.kind}-${band.from}`}
            title={band.words}
            className={`absolute top-0 h-full overflow-hidden border-r border-sheet ${band.kind in TEXTURES ? "bg-band" : ""}`}
            style={{ left: `${left}%`, width: `${right - left}%` }}
          >
            {band.kind in TEXTURES && (
              <svg width="100%" height="100%" className="absolute inset-0" aria-hidden="true">
                <rect width="100%" height="100%" fill={`url(#${idOf(id, band.kind)})`} />
              </svg>
            )}
            {!wordless && right - left > 9 && (
              <span className="relative ml-1 inline-block bg-band px-1 text-small leading-[15px] whitespace-nowrap">
                {bandWords(band.kind)}
              </span>
            )}
          </div>
        );
      })}
    </div>
  );
}

function idOf(base: string, kind: string): string {
  return `${base}${kind.replaceAll(" ", "-")}`;
}
