import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { catalogueQuery, partsQuery, systemQuery } from "../../api/queries";
import { useReview } from "../../api/review";
import { Button } from "../../design/Button";
import { ColumnCells } from "./ColumnCells";
import type { BriefAct } from "./useBriefAct";

/** One part for all configurations at once: its kind, and which one each has. */
export function NewPartRow({ act, onDone }: { act: BriefAct; onDone: () => void }) {
  const review = useReview();
  const client = useQueryClient();
  const kinds = useQuery(catalogueQuery).data?.kinds ?? [];
  const parts = useQuery(partsQuery()).data ?? [];
  const offered = kinds.filter((kind) => parts.some((part) => part.kind === kind.key));
  const [kind, setKind] = useState("");
  const [chosen, setChosen] = useState<Record<string, string>>({});
  const own = parts.filter((part) => part.kind === kind);
  const given = Object.entries(chosen).filter(([, part]) => part !== "");
  /** What sits there so far, so that it can be put back; a kit by the part that its modules are of. */
  const fittedNow = async () => {
    const columns = review.columns.filter((column) => given.some(([id]) => Number(id) === column.id));
    const entries = await Promise.all(
      columns.map(async (column) => {
        const system = await client.fetchQuery(systemQuery(column.system_id));
        const own = system.configurations.find((one) => one.id === column.configuration_id);
        const fit = own?.fitted.find(
          (one) => one.place === kind || (kind === "memory_kit" && one.place.startsWith("slot ")),
        );
        return [String(column.id), fit?.part ?? null] as const;
      }),
    );
    return Object.fromEntries(entries);
  };
  const store = async () => {
    const before = await fittedNow();
    const saved = await act(
      "PUT",
      "/fitted",
      {
        place: kind,
        parts: Object.fromEntries(
          given.map(([column, part]) => [column, part === "none" ? null : Number(part)]),
        ),
      },
      {
        said: `The ${kinds.find((one) => one.key === kind)?.label ?? "part"} is fitted.`,
        undo: () => act("PUT", "/fitted", { place: kind, parts: before }),
      },
    );
    if (saved) onDone();
  };
  return (
    <tr
      className="border border-line align-top"
      onKeyDown={(event) => {
        if (event.key === "Escape") onDone();
      }}
    >
      <th scope="row" className="px-2.5 py-1.5 text-left font-normal">
        <select
          autoFocus
          aria-label="Kind of part"
          value={kind}
          onChange={(event) => {
            setKind(event.target.value);
            setChosen({});
          }}
          className="w-full border border-line bg-sheet px-2 py-0.5 focus:border-ink"
        >
          <option value="">kind of part</option>
          {offered.map((one) => (
            <option key={one.key} value={one.key}>
              {one.label}
            </option>
          ))}
        </select>
        <span className="mt-1 flex gap-3">
          <Button disabled={!given.length} onClick={() => void store()}>
            Fit it
          </Button>
          <Button kind="link" onClick={onDone}>
            Not now
          </Button>
        </span>
      </th>
      <ColumnCells>
        {(column) => (
          <select
            aria-label={`Part on ${column.label}`}
            value={chosen[column.id] ?? ""}
            onChange={(event) => setChosen({ ...chosen, [column.id]: event.target.value })}
            className="w-full border border-line bg-sheet px-2 py-0.5 focus:border-ink"
          >
            <option value="">as it is</option>
            {kind && <option value="none">none</option>}
            {own.map((part) => (
              <option key={part.id} value={part.id}>
                {part.name}
              </option>
            ))}
          </select>
        )}
      </ColumnCells>
    </tr>
  );
}
