import { usualHalfWidth, useVocabulary } from "../../../../api/vocabulary";
import type { Way } from "./pasted";

interface Props {
  asked: string[];
  ways: Way[];
  metrics: Record<string, string>;
  units: Record<string, string>;
  onWays: (ways: Way[]) => void;
}

/** How the figures are read, asked by metric where no row says it yet. What is said stays with the rows. */
export function Ways({ asked, ways, metrics, units, onWays }: Props) {
  const methods = useVocabulary().reading_methods.filter((one) => one.name !== "captured");
  if (!asked.length) return null;
  const wayOf = (metric: string) => ways.find((way) => way.metric === metric);
  const set = (metrics: string[], change: (metric: string) => Way) =>
    onWays([...ways.filter((way) => !metrics.includes(way.metric)), ...metrics.map(change)]);
  const choose = (metrics: string[], method: string) =>
    set(metrics, (metric) => ({
      metric,
      method,
      half: usualHalfWidth(methods, method, units[metric] ?? ""),
    }));
  const dress = "ml-1.5 border border-ink bg-sheet px-1.5 py-0.5";
  const options = (
    <>
      <option value="">say how</option>
      {methods.map((one) => (
        <option key={one.name}>{one.name}</option>
      ))}
    </>
  );
  return (
    <fieldset className="mb-3 border border-line p-2.5 text-note">
      <legend className="px-1 font-semibold">How are these figures read?</legend>
      {asked.length > 1 && (
        <label className="mb-1.5 block">
          all of them
          <select
            className={dress}
            value=""
            onChange={(event) => event.target.value && choose(asked, event.target.value)}
          >
            {options}
          </select>
        </label>
      )}
      {asked.map((metric) => (
        <p key={metric} className="flex flex-wrap items-center gap-x-4 gap-y-1 py-0.5">
          <label>
            {metrics[metric] ?? metric}
            <select
              className={dress}
              value={wayOf(metric)?.method ?? ""}
              onChange={(event) => event.target.value && choose([metric], event.target.value)}
            >
              {options}
            </select>
          </label>
          {wayOf(metric) && (
            <label>
              exact to ±
              <input
                className={`${dress} w-16`}
                inputMode="decimal"
                placeholder="not known"
                value={wayOf(metric)?.half ?? ""}
                onChange={(event) =>
                  set([metric], () => ({
                    metric,
                    method: wayOf(metric)?.method ?? "",
                    half: event.target.value,
                  }))
                }
              />{" "}
              {units[metric]}
            </label>
          )}
        </p>
      ))}
    </fieldset>
  );
}
