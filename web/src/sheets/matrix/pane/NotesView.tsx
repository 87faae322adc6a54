import { useQueries } from "@tanstack/react-query";
import type { PassShape } from "../../../api/client";
import { unlikeQuery } from "../../../api/queries";
import { Seal } from "../../../marks/Seal";
import { setting } from "../../../marks/words";
import { When } from "../../../design/When";
import type { ChosenPass } from "./chosen";
import { useMatrix } from "../../../api/review";

interface Props {
  chosen: ChosenPass[];
}

const SEVERITY: Record<string, string> = {
  blocks: "blocks the comparison",
  warns: "a warning",
  notes: "a note",
};

/** How the chosen passes were run, and in what they differ from the first of them. */
export function NotesView({ chosen }: Props) {
  const matrix = useMatrix();
  const first = chosen[0];
  const unlike = useQueries({
    queries: chosen.slice(1).map(({ pass }) => unlikeQuery(first?.pass.id ?? "", pass.id)),
  });
  if (!first) return <p className="font-serif text-quiet">No pass here yet.</p>;
  return (
    <div className="grid gap-5 md:grid-cols-2">
      {chosen.map(({ pass, column }, at) => (
        <section key={pass.id} aria-label={`${column.label}, pass ${pass.number}`} className="min-w-0">
          <h3 className="mb-1 flex items-center gap-1.5 text-note font-semibold">
            <Seal
              position={column.position}
              label={column.label}
              baseline={column.id === matrix.baseline}
              size={18}
            />
            {column.label}, pass {pass.number}: {pass.outcome_words}
          </h3>
          <p className="text-note text-quiet">
            <When at={pass.started_at} />
            {pass.note && `; ${pass.note}`}
          </p>
          {pass.time_doubt && <p className="text-note text-mark">⚑ {pass.time_doubt}</p>}
          {pass.no_figures && <p className="text-note text-mark">⚑ No figures: {pass.no_figures}.</p>}
          {at > 0 && <Unlike found={unlike[at - 1]?.data} />}
          <Fingerprint environment={pass.environment} />
          <Output pass={pass} />
        </section>
      ))}
    </div>
  );
}

type Found = { key: string; words: string; severity: string }[] | undefined;

function Unlike({ found }: { found: Found }) {
  if (!found) return null;
  if (!found.length) return <p className="text-note">Run like the first pass in everything that is known.</p>;
  return (
    <ul className="my-1 text-note">
      {found.map((one) => (
        <li key={one.key} className={one.severity === "notes" ? "" : "text-mark"}>
          {one.severity !== "notes" && "⚑ "}
          {one.words} <span className="text-small text-quiet">({SEVERITY[one.severity]})</span>
        </li>
      ))}
    </ul>
  );
}

/** Everything on record about the machine as it was. */
function Fingerprint({ environment }: { environment: PassShape["environment"] }) {
  const entries = Object.entries(environment).flatMap(([key, value]): [string, string][] => {
    if (value === null || value === undefined || Array.isArray(value)) return [];
    if (typeof value !== "object") return [[key, String(value)]];
    if (key === "settings" || key === "observed") {
      const said = Object.entries(value as Record<string, unknown>).map(([name, one]) => setting(name, one));
      return said.length ? [[key === "settings" ? "set" : "observed", said.join(", ")]] : [];
    }
    return [];
  });
  if (!entries.length) return <p className="text-note text-quiet">Nothing is on record about the machine.</p>;
  return (
    <dl className="mt-1 grid grid-cols-[130px_minmax(0,1fr)] gap-x-3 text-small">
      {entries.map(([key, words]) => (
        <div key={key} className="contents">
          <dt className="text-quiet">{key}</dt>
          <dd className="break-words">{words}</dd>
        </div>
      ))}
    </dl>
  );
}

/** What the program itself left: the file that came in, or the figures that it said. */
function Output({ pass }: { pass: PassShape }) {
  const said = pass.figures.filter((one) => one.obtained === "extracted");
  const files = pass.captures.filter((capture) => capture.kind === "file");
  if (!said.length && !files.length) return null;
  return (
    <p className="mt-1 text-small">
      {said.length > 0 &&
        `The program said: ${said.map((one) => `${one.label} ${one.value} ${one.unit}`.trim()).join(", ")}. `}
      {files.map((file) => (
        <a key={file.id} className="mr-2 underline" href={`/api/captures/${file.id}.csv`} download>
          {file.name} as it came
        </a>
      ))}
    </p>
  );
}
