import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { factsQuery } from "../../api/standings";
import { Button } from "../../design/Button";

interface Props {
  workload: string;
  params: URLSearchParams;
  choose: (changes: Record<string, string>) => void;
}

/** Narrows a standing to results of which something holds: a part, an attribute, an image, a review. */
export function Having({ workload, params, choose }: Props) {
  const [open, setOpen] = useState(false);
  const [key, setKey] = useState("");
  const lines = (params.get("having") ?? "").split("\n").filter(Boolean);
  const everything = new URLSearchParams([...params].filter(([name]) => name !== "having"));
  const all = useQuery({ ...factsQuery(workload, everything), enabled: lines.length > 0 });
  const left = useQuery({ ...factsQuery(workload, params), enabled: open });
  const offered = left.data ?? [];
  const fact = offered.find((one) => one.key === key);
  const keep = (kept: string[]) => choose({ having: kept.join("\n"), offset: "" });
  return (
    <>
      {lines.map((line) => {
        const [of = "", ...rest] = line.split("=");
        const label = all.data?.find((one) => one.key === of)?.label ?? of;
        const words = `${label}: ${rest.join("=")}`;
        return (
          <span key={line} className="flex items-center gap-1.5 border border-ink bg-band px-2 py-0.5">
            {words}
            <Button
              kind="bare"
              aria-label={`No longer only ${words}`}
              onClick={() => keep(lines.filter((one) => one !== line))}
            >
              <span aria-hidden="true">×</span>
            </Button>
          </span>
        );
      })}
      {open ? (
        <span className="flex flex-wrap items-center gap-2">
          <select
            aria-label="Only results with this"
            autoFocus
            value={key}
            onChange={(event) => setKey(event.target.value)}
            className="max-w-52 border border-ink bg-sheet px-2 py-1"
          >
            <option value="">
              {left.isPending ? "reading …" : offered.length ? "of what?" : "they differ in nothing else"}
            </option>
            {offered.map((one) => (
              <option key={one.key} value={one.key}>
                {one.label}
              </option>
            ))}
          </select>
          {fact && (
            <select
              aria-label={`Only this ${fact.label}`}
              value=""
              onChange={(event) => {
                keep([...lines, `${fact.key}=${event.target.value}`]);
                setKey("");
                setOpen(false);
              }}
              className="max-w-64 border border-ink bg-sheet px-2 py-1"
            >
              <option value="">which?</option>
              {fact.values.map((one) => (
                <option key={one.value} value={one.value}>
                  {one.value} ({one.results})
                </option>
              ))}
            </select>
          )}
          <Button kind="bare" aria-label="Do not narrow it further" onClick={() => setOpen(false)}>
            <span aria-hidden="true">×</span>
          </Button>
        </span>
      ) : (
        <Button kind="link" onClick={() => setOpen(true)}>
          only with …
        </Button>
      )}
    </>
  );
}
