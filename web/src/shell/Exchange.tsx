import type { ChangeKind } from "../api/stale";
import { useRef } from "react";
import { act } from "../api/acts";
import { Button } from "../design/Button";
import { Menu } from "../design/Menu";
import { useAct } from "../design/useAct";
import { count } from "../marks/words";

interface Counts {
  added: number;
  updated: number;
  unchanged: number;
}

/** A list as a file, out and in. An import is taken as a whole or not at all. */
export function Exchange({ path, made, may }: { path: string; made: ChangeKind; may: boolean }) {
  const run = useAct();
  const picker = useRef<HTMLInputElement>(null);
  const take = async (file: File | undefined) => {
    if (!file) return;
    const text = await file.text();
    const counts = await run(() => act<Counts>("POST", `${path}/import`, { text }), { made });
    if (counts) {
      await run(() => Promise.resolve(), {
        said: `${count(counts.added, "object")} added, ${counts.updated} brought up to date, ${counts.unchanged} unchanged.`,
      });
    }
  };
  return (
    <>
      <Menu
        label="Export and import"
        trigger={<Button>Export and import</Button>}
        items={[
          { label: "Export as CSV", act: () => window.location.assign(`${path}.csv`) },
          { label: "Export as JSON", act: () => window.location.assign(`${path}.json`) },
          { label: "Import CSV or JSON …", act: () => picker.current?.click(), disabled: !may },
        ]}
      />
      <input
        ref={picker}
        type="file"
        accept=".csv,.json,text/csv,application/json"
        className="hidden"
        aria-label="File to import"
        onChange={(event) => {
          void take(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
    </>
  );
}
