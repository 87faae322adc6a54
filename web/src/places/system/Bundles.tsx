import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../api/acts";
import type { Shapes } from "../../api/client";
import { bundlesQuery } from "../../api/queries";
import { refresh } from "../../api/stale";
import { Button } from "../../design/Button";
import { CreateDialog } from "../../design/CreateDialog";
import { Field } from "../../design/Field";
import { Menu } from "../../design/Menu";
import { useAct } from "../../design/useAct";

interface Props {
  /** The key of a workload for settings of its tests; empty for settings of configurations. */
  workload: string;
  /** What is set now and could be kept by a name. */
  chosen: Record<string, unknown>;
  labelOf: (key: string) => string;
  onTake: (settings: Record<string, unknown>) => void;
}

/** Settings by one name: take a bundle over, or keep what is set as one. */
export function Bundles({ workload, chosen, labelOf, onTake }: Props) {
  const bundles = (useQuery(bundlesQuery).data ?? []).filter((one) => one.workload === workload);
  const [keeping, setKeeping] = useState(false);
  const run = useAct();
  const forget = (one: Shapes["BundleShape"]) =>
    void run(() => act("DELETE", `/api/bundles/${one.id}`), {
      said: `${one.family}: ${one.name} is forgotten; what it was set to stays set.`,
      made: "systems",
      undo: () =>
        act("POST", "/api/bundles", {
          family: one.family,
          name: one.name,
          settings: one.settings,
          workload: one.workload,
        }),
    });
  return (
    <>
      {bundles.length > 0 && (
        <Menu
          label="Take a bundle of settings"
          trigger={<Button kind="link">Take a bundle</Button>}
          items={[
            ...bundles.map((one) => ({
              label: `${one.family}: ${one.name}`,
              act: () => onTake(one.settings),
            })),
            ...bundles.map((one) => ({
              label: `Forget ${one.family}: ${one.name}`,
              act: () => forget(one),
            })),
          ]}
        />
      )}
      {Object.keys(chosen).length > 1 && (
        <Button kind="link" onClick={() => setKeeping(true)}>
          Keep these as a bundle
        </Button>
      )}
      {keeping && (
        <KeepBundle workload={workload} chosen={chosen} labelOf={labelOf} onClose={() => setKeeping(false)} />
      )}
    </>
  );
}

interface KeepProps {
  workload: string;
  chosen: Record<string, unknown>;
  labelOf: (key: string) => string;
  onClose: () => void;
}

function KeepBundle({ workload, chosen, labelOf, onClose }: KeepProps) {
  const client = useQueryClient();
  return (
    <CreateDialog
      title="Settings by one name"
      path="/api/bundles"
      submit="Keep it"
      bodyOf={(form) => ({
        family: form.get("family"),
        name: form.get("name"),
        workload,
        settings: Object.fromEntries(
          Object.entries(chosen).filter(([key]) => form.getAll("setting").includes(key)),
        ),
      })}
      onMade={() => {
        void refresh(client, "systems");
        onClose();
      }}
      onClose={onClose}
    >
      <div className="grid gap-x-3 sm:grid-cols-2">
        <Field label="What it chooses">
          <input
            name="family"
            required
            maxLength={40}
            placeholder={workload ? "picture quality" : "memory tuning"}
          />
        </Field>
        <Field label="Which one this is">
          <input
            name="name"
            required
            maxLength={40}
            placeholder={workload ? "high, long shadows" : "tight"}
          />
        </Field>
      </div>
      <fieldset className="text-note">
        <legend className="font-semibold">It holds</legend>
        {Object.entries(chosen).map(([key, value]) => (
          <label key={key} className="flex items-center gap-1.5">
            <input type="checkbox" name="setting" value={key} defaultChecked />
            {labelOf(key)} {String(value)}
          </label>
        ))}
      </fieldset>
      <p className="mt-2 text-note text-quiet">
        Configurations and tests hold the settings themselves; a bundle only names them.
      </p>
    </CreateDialog>
  );
}
