import { useQuery } from "@tanstack/react-query";
import { standingQuery } from "../../api/standings";

interface Props {
  workload: string;
  params: URLSearchParams;
  choose: (changes: Record<string, string>) => void;
}

/** The settings and the metric that are looked at. */
export function Choices({ workload, params, choose }: Props) {
  const { data } = useQuery(standingQuery(workload, params));
  if (!data) return null;
  return (
    <>
      <Group
        name="Settings"
        value={params.get("settings") ?? data.settings}
        choices={data.all_settings.map((one) => [one.key, one.words || "as it comes", one.results])}
        onChoose={(settings) => choose({ settings, metric: "", against: "" })}
      />
      <Group
        name="Metric"
        value={params.get("metric") ?? data.metric}
        choices={data.all_metrics.map((one) => [one.key, one.label, one.results])}
        onChoose={(metric) => choose({ metric })}
      />
    </>
  );
}

interface GroupProps {
  name: string;
  value: string;
  choices: [string, string, number][];
  onChoose: (key: string) => void;
}

function Group({ name, value, choices, onChoose }: GroupProps) {
  return (
    <fieldset className="mt-4 text-note">
      <legend className="mb-1 text-quiet">{name}</legend>
      {choices.map(([key, words, results]) => (
        <label key={key} className="flex items-baseline gap-2 py-0.5">
          <input type="radio" name={name} checked={key === value} onChange={() => onChoose(key)} />
          <span>
            {words} <span className="text-small text-quiet">{results}</span>
          </span>
        </label>
      ))}
    </fieldset>
  );
}
