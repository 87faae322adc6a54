import type { Shapes } from "../../api/client";
import { columnOf, testOf } from "../../api/lookup";

interface Props {
  content: Shapes["RecordContent"];
}

interface Told {
  key: string;
  words: string;
}

/** What the results are to be read with: what failed, what hides a difference, how the passes differed as they ran, flags. */
export function Reservations({ content }: Props) {
  const { review, matrix, passes } = content;
  const name = (test: number) => {
    const found = testOf(review, test);
    return [found?.name, found?.detail].filter(Boolean).join(", ");
  };
  const label = (column: string) => columnOf(review, Number(column))?.label ?? "";
  const ofPasses = (own: typeof passes, words: (pass: (typeof passes)[number]) => string): Told[] =>
    own.map((pass) => ({
      key: pass.id,
      words: `${name(pass.test)} on ${label(String(pass.column))}, pass ${pass.number}: ${words(pass)}.`,
    }));
  const failed = ofPasses(
    passes.filter((pass) => pass.outcome !== "completed"),
    (pass) => [pass.outcome_words, pass.note].filter(Boolean).join(", "),
  );
  const aside = ofPasses(
    passes.filter((pass) => pass.set_aside && pass.outcome === "completed"),
    (pass) => pass.reason || "no reason on record",
  );
  const flags: Told[] = matrix.flags.flatMap((row) =>
    Object.entries(row.cells).flatMap(([column, own]) =>
      own.map((flag) => ({
        key: `${row.test} ${column} ${flag.key}`,
        words: `${name(row.test)} on ${label(column)}: ${flag.words}.`,
      })),
    ),
  );
  const unlike: Told[] = matrix.alike.flatMap((row) =>
    Object.entries(row.against).flatMap(([column, own]) =>
      own.map((one) => ({
        key: `${row.test} ${column} ${one.key}`,
        words: `${name(row.test)} on ${label(column)}: ${one.words}${one.accepted ? `, accepted: ${one.accepted}` : ""}.`,
      })),
    ),
  );
  const masked: Told[] = matrix.limits.flatMap((row) =>
    Object.entries(row.masked).map(([column, one]) => ({
      key: `${row.test} ${column}`,
      words: `${name(row.test)} on ${label(column)}: ${one.words}`,
    })),
  );
  const untrusted: Told[] = matrix.rows
    .filter((row) => row.untrusted)
    .map((row) => ({
      key: row.key,
      words: `${name(row.test)}, ${row.label}: not trusted, ${row.untrusted}.`,
    }));
  return (
    <>
      <List title="Passes that failed" told={failed} />
      <List title="Passes set aside" told={aside} />
      <List title="What this test cannot show" told={masked} />
      <List title="Not trusted" told={untrusted} />
      <List title="How passes differed from the baseline's as they ran" told={unlike} />
      <List title="Flags" told={flags} />
    </>
  );
}

function List({ title, told }: { title: string; told: Told[] }) {
  if (!told.length) return null;
  return (
    <>
      <h3 className="mt-3 text-note font-semibold">{title}</h3>
      <ul className="text-note">
        {told.map(({ key, words }) => (
          <li key={key} className="border-t border-line py-0.5">
            {words}
          </li>
        ))}
      </ul>
    </>
  );
}
