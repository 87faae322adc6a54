import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Shapes } from "../../api/client";
import { bundlesQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import type { BriefAct } from "./useBriefAct";

type Row = Shapes["DifferenceRow"];

interface Props {
  /** Differences that nobody has declared. */
  rows: Row[];
  act: BriefAct;
  onClose: () => void;
}

/** The families of bundles of which two settings or more differ, with these settings. */
export function familiesIn(
  rows: Pick<Row, "key">[],
  bundles: Pick<Shapes["BundleShape"], "family" | "workload" | "settings">[],
): [string, string[]][] {
  const families = new Map<string, Set<string>>();
  for (const one of bundles.filter((bundle) => !bundle.workload)) {
    const keys = families.get(one.family) ?? new Set();
    Object.keys(one.settings).forEach((key) => keys.add(key));
    families.set(one.family, keys);
  }
  return [...families]
    .map(([family, keys]): [string, string[]] => [
      family,
      rows.filter((row) => keys.has(row.key)).map((row) => row.key),
    ])
    .filter(([, keys]) => keys.length > 1);
}

/** Several differences that are changed together on purpose are one factor, and count as one thing. */
export function DeclareTogether({ rows, act, onClose }: Props) {
  const families = familiesIn(rows, useQuery(bundlesQuery).data ?? []);
  const [name, setName] = useState("");
  const [chosen, setChosen] = useState<string[]>([]);
  const declare = async () => {
    const saved = await act(
      "POST",
      "/factors",
      { aspects: rows.filter((row) => chosen.includes(row.key)).map((row) => row.key), name },
      {
        said: `${name} is a factor now.`,
        undo: (after) => act("DELETE", `/factors/${after.factors.at(-1)?.key}`),
      },
    );
    if (saved) onClose();
  };
  return (
    <Dialog open onClose={onClose} title="Several differences as one factor">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void declare();
        }}
      >
        {families.length > 0 && (
          <p className="mb-2 flex flex-wrap gap-2 text-note">
            {families.map(([family, keys]) => (
              <Button
                key={family}
                onClick={() => {
                  setName(family);
                  setChosen(keys);
                }}
              >
                {family}
              </Button>
            ))}
          </p>
        )}
        <fieldset className="mb-3 text-note">
          <legend className="font-semibold">What is changed together</legend>
          {rows.map((row) => (
            <label key={row.key} className="flex items-center gap-1.5">
              <input
                type="checkbox"
                checked={chosen.includes(row.key)}
                onChange={() =>
                  setChosen(
                    chosen.includes(row.key) ? chosen.filter((key) => key !== row.key) : [...chosen, row.key],
                  )
                }
              />
              {row.label}
            </label>
          ))}
        </fieldset>
        <Field label="What it is called" hint="Memory tuning, processor tuning, the kit.">
          <input required maxLength={80} value={name} onChange={(event) => setName(event.target.value)} />
        </Field>
        <div className="flex gap-3">
          <Button kind="strong" type="submit" disabled={chosen.length < 2}>
            Declare it
          </Button>
          <Button onClick={onClose}>Not now</Button>
        </div>
      </form>
    </Dialog>
  );
}
