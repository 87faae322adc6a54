import { useEffect, useState } from "react";
import type { Shapes } from "../../api/client";
import { Having } from "./Having";

interface Props {
  standing: Shapes["StandingShape"];
  params: URLSearchParams;
  choose: (changes: Record<string, string>) => void;
}

const TYPING_MS = 350;

/** Which results are looked at: by words, machine and days. */
export function Filters({ standing, params, choose }: Props) {
  const [words, setWords] = useState(params.get("words") ?? "");
  useEffect(() => {
    if (words === (params.get("words") ?? "")) return undefined;
    const timer = window.setTimeout(() => choose({ words }), TYPING_MS);
    return () => window.clearTimeout(timer);
  }, [words, params, choose]);
  const narrowed = ["words", "system", "since", "until", "having"].some((name) => params.get(name));
  return (
    <div className="mb-3 flex flex-wrap items-center gap-3 text-note" role="search">
      <input
        type="search"
        aria-label="Only results with these words"
        placeholder="machine, part, question"
        value={words}
        onChange={(event) => setWords(event.target.value)}
        className="w-64 border border-ink bg-sheet px-2 py-1 text-body placeholder:text-quiet"
      />
      <select
        aria-label="Only this machine"
        value={params.get("system") ?? ""}
        onChange={(event) => choose({ system: event.target.value })}
        className="border border-ink bg-sheet px-2 py-1"
      >
        <option value="">every machine</option>
        {standing.systems.map((name) => (
          <option key={name}>{name}</option>
        ))}
      </select>
      {(["since", "until"] as const).map((name) => (
        <label key={name} className="flex items-center gap-1.5">
          {name}
          <input
            type="date"
            value={params.get(name) ?? ""}
            onChange={(event) => choose({ [name]: event.target.value })}
            className="border border-ink bg-sheet px-1.5 py-0.5"
          />
        </label>
      ))}
      <Having workload={standing.key} params={params} choose={choose} />
      <a
        href={`/api/standings/${standing.key}/results.csv?${new URLSearchParams([...params].filter(([name]) => name !== "workload" && name !== "as")).toString()}`}
        download
        className="ml-auto underline"
      >
        CSV
      </a>
      {narrowed && (
        <button
          type="button"
          className="underline"
          onClick={() => {
            setWords("");
            choose({ words: "", system: "", since: "", until: "", having: "" });
          }}
        >
          all of them
        </button>
      )}
    </div>
  );
}
