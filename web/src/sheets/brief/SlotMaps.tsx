import { useQueries } from "@tanstack/react-query";
import { useState } from "react";
import type { ReviewShape } from "../../api/client";
import { systemQuery } from "../../api/queries";
import { Population } from "../../marks/Population";
import { Seal } from "../../marks/Seal";
import { SlotMap } from "../../marks/SlotMap";
import { modulesOf } from "../../places/system/modules";
import { useReview } from "../../api/review";

/** How the modules sit in each configuration; equal layouts are drawn once. */
export function SlotMaps() {
  const review = useReview();
  const [open, setOpen] = useState(false);
  if (!review.columns.length) return null;
  return (
    <details onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="text-note font-semibold">Memory slots</summary>
      {open && <Layouts />}
    </details>
  );
}

function Layouts() {
  const review = useReview();
  const ids = [...new Set(review.columns.map((column) => column.system_id))];
  const systems = useQueries({ queries: ids.map((id) => systemQuery(id)) }).flatMap((q) => q.data ?? []);
  const layouts = new Map<string, { columns: ReviewShape["columns"]; key: string }>();
  for (const column of review.columns) {
    const system = systems.find((one) => one.id === column.system_id);
    const configuration = system?.configurations.find((one) => one.id === column.configuration_id);
    if (!system?.slots.length || !configuration) continue;
    const key = JSON.stringify([system.id, modulesOf(configuration), configuration.population]);
    const layout = layouts.get(key) ?? { columns: [], key };
    layout.columns.push(column);
    layouts.set(key, layout);
  }
  if (!layouts.size)
    return <p className="mt-1 text-note text-quiet">No slot map is known for these systems.</p>;
  return (
    <div className="mt-2 flex flex-wrap gap-x-10 gap-y-4">
      {[...layouts.values()].map(({ columns, key }) => {
        const first = columns[0];
        const system = systems.find((one) => one.id === first?.system_id);
        const configuration = system?.configurations.find((one) => one.id === first?.configuration_id);
        if (!system || !configuration) return null;
        return (
          <div key={key} className="max-w-md">
            <p className="mb-1 flex flex-wrap gap-2 text-note">
              {columns.map((column) => (
                <span key={column.id} className="flex items-center gap-1">
                  <Seal position={column.position} label={column.label} size={17} /> {column.label}
                </span>
              ))}
            </p>
            <SlotMap
              slots={system.slots}
              fitted={modulesOf(configuration)}
              marked={configuration.population?.mistakes.flatMap((one) => one.slots) ?? []}
            />
            {configuration.population && <Population shape={configuration.population} />}
          </div>
        );
      })}
    </div>
  );
}
