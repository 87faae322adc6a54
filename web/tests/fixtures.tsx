import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import type { ReactElement } from "react";
import { renderToStaticMarkup } from "react-dom/server";
import { StaticRouter } from "react-router";
import type {
  CellShape,
  ColumnShape,
  MatrixShape,
  ProgressCell,
  ReviewShape,
  RowShape,
  Shapes,
  TestShape,
} from "../src/api/client";
import { MatrixProvider, ReviewProvider } from "../src/api/review";
import { SessionProvider } from "../src/api/session";
import { Notices } from "../src/design/Notices";

export function columnOf(id: number, more: Partial<ColumnShape> = {}): ColumnShape {
  return {
    id,
    position: id - 1,
    label: `kit ${id}`,
    note: "",
    step: null,
    tag: `t${id}`,
    is_baseline: id === 1,
    system: "bench one",
    system_id: 1,
    system_key: "one",
    configuration: `kit ${id}`,
    configuration_id: id,
    revision: 1,
    blocked: "",
    latest: null,
    continues: null,
    levels: {},
    has_passes: false,
    settings: {},
    ...more,
  };
}

export function testOf(id: number, more: Partial<TestShape> = {}): TestShape {
  return {
    id,
    name: "tour",
    workload: 1,
    version: "1.0",
    kind: "scene",
    detail: "high",
    short: "high",
    isolates: "",
    has_passes: false,
    settings: {},
    shown: ["average_fps"],
    metrics: [],
    targets: {},
    power: "",
    skip_s: 0,
    end_cut_s: 0,
    counts: {},
    procedure: "",
    tag: "t",
    ...more,
  };
}

export function cellOf(centre: number, more: Partial<CellShape> = {}): CellShape {
  return {
    n: 3,
    centre,
    low: centre * 0.99,
    high: centre * 1.01,
    spread_pct: 1,
    half_pct: 1,
    thin: false,
    tail: null,
    comparison: null,
    why_not: "",
    why_not_code: "",
    half_width: null,
    methods: [],
    held_fps: null,
    corrected: null,
    idle: null,
    sentence: "",
    basis: [],
    ...more,
  };
}

export function comparisonOf(
  better: number,
  more: Partial<Shapes["ComparisonShape"]> = {},
): Shapes["ComparisonShape"] {
  return {
    change: better,
    low: better - 1,
    high: better + 1,
    better,
    better_low: better - 1,
    better_high: better + 1,
    verdict: better > 0 ? "ahead" : "behind",
    told: `${better} %`,
    interval: "from a to b",
    settling: "",
    speed: "",
    n: 3,
    n_baseline: 3,
    needed: null,
    by: "passes",
    one_session: false,
    noise: "pooled",
    ...more,
  };
}

export function rowOf(cells: Record<string, CellShape>, more: Partial<RowShape> = {}): RowShape {
  return {
    key: "1:average_fps",
    test: 1,
    metric: "average_fps",
    label: "average",
    unit: "fps",
    direction: "higher",
    scale: "ratio",
    margin: 3,
    noise: { source: "pooled", spread: 1, df: 4 },
    level_pct: 5,
    cells,
    apart: {},
    gaps: {},
    reading: null,
    untrusted: "",
    kind: "",
    idle_off: false,
    targets: {},
    ...more,
  };
}

export function progressOf(more: Partial<ProgressCell> = {}): ProgressCell {
  return { pips: [], owed: 0, next_owed: null, running: [], said: "", ...more };
}

export function matrixOf(more: Partial<MatrixShape> = {}): MatrixShape {
  return {
    review: 1,
    baseline: 1,
    margin_pct: 3,
    low_definition: "slowest_mean",
    low_words: "mean of the slowest frames",
    progress: [],
    rows: [],
    totals: { kept: 0, first: 0, owed: 0, running: 0, failed: 0, flagged: 0, set_aside: 0 },
    limits: [],
    alike: [],
    flags: [],
    returned: [],
    recounting: [],
    economy: [],
    prices: {},
    ...more,
  };
}

export function reviewOf(more: Partial<ReviewShape> = {}): ReviewShape {
  return {
    id: 1,
    key: "kits",
    question: "Does the second kit help?",
    expectation: "",
    audience: "",
    varies: "memory",
    constant: "",
    margin: 0.03,
    margins: {},
    low_definition: "slowest_mean",
    target_fps: null,
    passes_per_test: 3,
    decision: "",
    constraints: "",
    disclosure: "",
    skill_note: "",
    expectation_at: null,
    expectations: [],
    first_pass_at: null,
    times_doubtful: false,
    target_c: null,
    target_s: null,
    targets: {},
    target_no_failure: false,
    single: false,
    expected_effect: null,
    returns_to_baseline: false,
    asks_price: false,
    archived_at: null,
    factors: [],
    factors_tag: "f",
    origins: [],
    editor: "Editor",
    created_at: "2026-01-01T00:00:00Z",
    version: 1,
    columns: [columnOf(1), columnOf(2)],
    tests: [testOf(1)],
    differences: { rows: [], constant: [], caveats: [] },
    records: [],
    ...more,
  };
}

interface Surroundings {
  review?: ReviewShape;
  matrix?: MatrixShape;
  /** Acts that the one who is signed in may do. */
  may?: string[];
  /** What the server is known to have answered, by query key. */
  answers?: [readonly unknown[], unknown][];
  at?: string;
}

/** What a part of the page shows, as HTML: rendered once, with no browser. */
export function markup(element: ReactElement, surroundings: Surroundings = {}): string {
  const { review = reviewOf(), matrix = matrixOf(), may = [], answers = [], at = "/" } = surroundings;
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  for (const [key, answer] of answers) client.setQueryData(key, answer);
  return renderToStaticMarkup(
    <QueryClientProvider client={client}>
      <StaticRouter location={at}>
        <SessionProvider
          session={{
            signed_in: true,
            username: "ada",
            display_name: "Ada",
            role: "tester",
            may,
            owes_second_factor: false,
            team: "",
            changed: [],
          }}
        >
          <Notices>
            <ReviewProvider review={review}>
              <MatrixProvider matrix={matrix}>{element}</MatrixProvider>
            </ReviewProvider>
          </Notices>
        </SessionProvider>
      </StaticRouter>
    </QueryClientProvider>,
  );
}

/** What is read aloud or printed of some HTML: its text with single spaces. */
export function textOf(html: string): string {
  return html
    .replace(/<title>.*?<\/title>/g, "")
    .replace(/<[^>]*>/g, " ")
    .replace(/&#x27;/g, "'")
    .replace(/&gt;/g, ">")
    .replace(/&amp;/g, "&")
    .replace(/\s+/g, " ")
    .trim();
}

/** The accessible names that some HTML gives. */
export function namesIn(html: string): string[] {
  return [...html.matchAll(/aria-label="([^"]*)"/g)].map((found) => found[1] ?? "");
}
