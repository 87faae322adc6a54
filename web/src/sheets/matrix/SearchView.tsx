import { useQuery } from "@tanstack/react-query";
import { act } from "../../api/acts";
import type { Shapes } from "../../api/client";
import { searchQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { useMay } from "../../api/session";
import { useAct } from "../../design/useAct";
import { Ladder } from "../../marks/Ladder";
import { count, duration, figure } from "../../marks/words";
import { Failed, Loading } from "../../shell/States";
import { SearchByHand } from "./SearchByHand";
import { TableHead } from "../../design/TableHead";

export type Search = Shapes["SearchShape"];

interface Props {
  /** A pass that is in, or an entry of the docket that is under way. */
  of: { pass: string } | { entry: number };
}

/** A load search: its ladder, what it says so far, what runs out first, and every attempt. */
export function SearchView({ of }: Props) {
  const may = useMay();
  const pass = "pass" in of ? of.pass : null;
  const search = useQuery(searchQuery(of));
  const run = useAct();
  if (search.isPending) return <Loading what="Reading the search" />;
  if (search.isError) return <Failed error={search.error} again={() => void search.refetch()} />;
  const data = search.data;
  const goOn = () =>
    void run(() => act("POST", `/api/passes/${pass}/search`), {
      said: "The search is owed again and goes on where it was.",
      made: "pass",
    });
  return (
    <div>
      <p className="mb-1 font-serif text-lead">{sentence(data)}</p>
      {data.unstable && (
        <p className="mb-1 text-note">
          <strong>
            Unstable{" "}
            {data.unstable[0] === data.unstable[1]
              ? `at ${data.unstable[0]}`
              : `from ${data.unstable[0]} to ${data.unstable[1]}`}
            :
          </strong>{" "}
          what broke once held at another time. It is shown as it was and not smoothed over.
        </p>
      )}
      <div className="overflow-x-auto">
        <Ladder search={data} />
      </div>
      <p className="mt-1 text-small text-quiet">
        load upward, attempts from left to right · disc: holds · cross: breaks · ring: hot, after a soak of{" "}
        {duration(data.soak_s)} · shaded: between what held and what broke
      </p>
      {data.by_hand && may("record") && data.entry !== null && (
        <SearchByHand search={data} entry={data.entry} />
      )}
      {pass && !data.done && data.state !== "completed" && may("ask_for_passes") && (
        <Button className="mt-2" onClick={goOn}>
          Go on with this search
        </Button>
      )}
      <Fits search={data} />
      <Attempts search={data} />
    </div>
  );
}

function sentence(search: Search): string {
  const { held, broken } = search.cold;
  if (held === null || search.rungs.length) return `${capital(search.cold.words)}.`;
  const sure = search.confirmed > 1 ? ` ${count(search.confirmed, "time")} in a row` : "";
  const above = broken === null ? "nothing was tried above" : `${broken} broke`;
  return `${held} ${search.unit} held${sure}, ${above}.${hotWords(search)}`;
}

function hotWords(search: Search): string {
  if (!search.hot || search.loss_pct === null) return search.hot ? " Hot, no load held." : "";
  const loss =
    search.loss_pct === 0 ? "nothing lost to heat" : `${figure(search.loss_pct, 2)} % lost to heat`;
  return ` Hot: ${search.hot.held} held, ${loss}.`;
}

function capital(words: string): string {
  return (words[0]?.toUpperCase() ?? "") + words.slice(1);
}

/** What runs out first, by straight lines through the loads that held. */
function Fits({ search }: { search: Search }) {
  const reached = search.fits.filter((fit) => fit.runs_out_at !== null);
  const first = reached[0];
  if (!first) return null;
  return (
    <p className="mt-2 text-note">
      By a straight line through {first.points} loads that held, <strong>{first.name}</strong> would reach{" "}
      {figure(first.capacity)} at {figure(first.runs_out_at ?? 0)} {search.unit}
      {reached[1] && (
        <span className="text-quiet">
          ; next {reached[1].name} at {figure(reached[1].runs_out_at ?? 0)}
        </span>
      )}
      .
    </p>
  );
}

const PHASES: Record<string, string> = {
  growing: "growing",
  shrinking: "shrinking",
  bisecting: "halving",
  confirming: "confirming",
  hot: "hot check",
  ladder: "next rung",
  own: "own choice",
};

function Attempts({ search }: { search: Search }) {
  if (!search.attempts.length) return null;
  const names = [...new Set(search.attempts.flatMap((one) => Object.keys(one.use)))];
  return (
    <details className="mt-2" open={search.attempts.length <= 12}>
      <summary className="text-note text-quiet">{count(search.attempts.length, "attempt")}</summary>
      <div className="overflow-x-auto">
        <table className="text-note">
          <TableHead
            columns={[
              "load",
              "why",
              "outcome",
              ...names.map((name) => ({
                label: USE_UNITS[name] ? `${name} ${USE_UNITS[name]}` : name,
                right: true,
              })),
            ]}
          />
          <tbody>
            {search.attempts.map((one) => (
              <tr key={one.position} className="border-t border-line">
                <td className="pr-4 whitespace-nowrap">{one.words}</td>
                <td className="pr-4 whitespace-nowrap text-quiet">{PHASES[one.phase] ?? one.phase}</td>
                <td className="pr-4">
                  {one.holds ? (
                    "holds"
                  ) : (
                    <>
                      <strong>breaks</strong>
                      {one.time_to_failure_s !== null && ` after ${figure(one.time_to_failure_s)} s`}
                      {one.reason && <span className="text-quiet">, {one.reason}</span>}
                    </>
                  )}
                </td>
                {names.map((name) => (
                  <td key={name} className="pr-4 text-right whitespace-nowrap">
                    {mean(one.use[name])}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </details>
  );
}

const USE_UNITS: Record<string, string> = {
  "processor use": "%",
  "busiest core": "%",
  "memory used": "GB",
  temperature: "°C",
  clock: "MHz",
  power: "W",
};

function mean(use: unknown): string {
  const value = (use as { mean?: number } | undefined)?.mean;
  return value === undefined ? "" : figure(value);
}
