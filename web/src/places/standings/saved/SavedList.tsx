import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import type { Shapes } from "../../../api/client";
import { useMay } from "../../../api/session";
import { savedQuery } from "../../../api/standings";
import { Button } from "../../../design/Button";
import { SavedDialog } from "./SavedDialog";
import { SaveDialog } from "./SaveDialog";

/** Standings under a name: opened by it, with what can be done about each. */
export function SavedList({ workload }: { workload: string }) {
  const saved = useQuery(savedQuery).data ?? [];
  const may = useMay();
  const [params, setParams] = useSearchParams();
  const [open, setOpen] = useState<Shapes["SavedShape"] | "new" | null>(null);
  // The first workload is shown without being named in the address.
  const here = { ...(params.has("set") ? {} : { workload }), ...Object.fromEntries(params) };
  return (
    <section aria-label="Saved standings" className="mt-4 text-note">
      <h2 className="mb-1 text-quiet">Saved</h2>
      <ul>
        {saved.map((one) => (
          <li key={one.id} className="flex items-baseline gap-2 border-t border-line py-1">
            <button
              type="button"
              className="min-w-0 flex-1 text-left font-semibold hover:underline"
              onClick={() => setParams(one.query)}
            >
              {one.name}
              {one.address && <span className="font-normal text-quiet"> public</span>}
            </button>
            {(may("publish") || may("follow_up")) && (
              <Button kind="link" aria-label={`about ${one.name}`} onClick={() => setOpen(one)}>
                …
              </Button>
            )}
          </li>
        ))}
      </ul>
      {may("follow_up") && (
        <Button kind="link" onClick={() => setOpen("new")}>
          save what is shown
        </Button>
      )}
      {open === "new" && <SaveDialog query={here} onClose={() => setOpen(null)} />}
      {open !== null && open !== "new" && (
        <SavedDialog saved={saved.find((one) => one.id === open.id) ?? open} onClose={() => setOpen(null)} />
      )}
    </section>
  );
}
