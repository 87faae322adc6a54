import { useState } from "react";
import { act, editConfiguration } from "../../api/acts";
import type { ConfigurationShape, Shapes, SystemDetail } from "../../api/client";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { Population } from "../../marks/Population";
import { SlotMap } from "../../marks/SlotMap";
import { History } from "../../shell/History";
import { EditConfiguration } from "./EditConfiguration";
import { modulesOf } from "./modules";
import { Observe } from "./Observe";
import { useMay } from "../../api/session";
import { useKeeping } from "../../design/useKeeping";

interface Props {
  system: SystemDetail;
  configuration: ConfigurationShape;
  onChoose: (configuration: number) => void;
}

/** One configuration: what differs from its base, what sits where, and every setting as rated, set and observed. */
export function ConfigurationPane({ system, configuration, onChoose }: Props) {
  const [open, setOpen] = useState<"edit" | "but" | null>(null);
  const run = useAct();
  const may = useMay();
  const edits = may("edit_systems");
  const base = system.configurations.find((one) => one.id === configuration.base);
  const path = `/api/configurations/${configuration.id}`;
  const later = system.configurations.find((one) => one.id === configuration.replaced_by);
  const parts = configuration.fitted.filter((fit) => !fit.place.startsWith("slot "));
  const copy = async () => {
    const made = await run(() => act<ConfigurationShape>("POST", `${path}/copy`), {
      said: "Duplicated; it differs in nothing yet.",
      made: "systems",
    });
    if (made) onChoose(made.id);
  };
  const { archive } = useKeeping(path, configuration.title, "systems");
  const unblock = () =>
    run(() => editConfiguration(configuration.id, configuration.version, { blocked: "" }), {
      said: "It can be built again.",
      made: "systems",
    });
  return (
    <section aria-label={configuration.title} className="min-w-0">
      <div className="mb-2 flex items-start justify-between gap-3">
        <div>
          <h2 className="font-serif text-lead font-semibold">{configuration.title}</h2>
          <p className="text-note text-quiet">
            {configuration.note && `${configuration.note} · `}
            {configuration.frozen
              ? "frozen, as it has passes: a change makes a revision"
              : "no passes yet, so it can be changed"}
            {later && (
              <>
                {" · "}
                <button type="button" className="underline" onClick={() => onChoose(later.id)}>
                  {later.title}
                </button>{" "}
                follows
              </>
            )}
          </p>
        </div>
        <span className="flex shrink-0 flex-wrap justify-end gap-2">
          {edits && (
            <Button kind="strong" onClick={() => setOpen("but")}>
              The same, but …
            </Button>
          )}
          {edits && !later && <Button onClick={() => setOpen("edit")}>Edit</Button>}
        </span>
      </div>
      {configuration.blocked && (
        <p className="mb-3 border border-mark px-3 py-2 text-note">
          <strong className="text-mark">⚑ Cannot be built:</strong> {configuration.blocked}.{" "}
          {edits && (
            <Button kind="link" onClick={() => void unblock()}>
              Mark as buildable
            </Button>
          )}
        </p>
      )}
      {base && (
        <p className="mb-3 font-serif">
          The same as{" "}
          <button type="button" className="underline" onClick={() => onChoose(base.id)}>
            {base.title}
          </button>
          {configuration.changes.length === 0 && ", in everything"}
          {configuration.changes.map((change, at) => (
            <span key={change.key}>
              {at === 0 ? ", but " : at === configuration.changes.length - 1 ? " and " : ", "}
              {change.label} <strong>{change.after}</strong>{" "}
              <span className="text-quiet">({change.before})</span>
            </span>
          ))}
          .
        </p>
      )}
      {system.slots.length > 0 && (
        <div className="mb-4">
          <SlotMap
            slots={system.slots}
            fitted={modulesOf(configuration)}
            marked={configuration.population?.mistakes.flatMap((one) => one.slots) ?? []}
          />
          {configuration.population && <Population shape={configuration.population} />}
        </div>
      )}
      <SettingsTable rows={configuration.settings_table} />
      {may("tick_steps") && <Observe configuration={configuration} />}
      {parts.length > 0 && (
        <table className="mt-4 w-full border-collapse text-note">
          <caption className="text-left font-semibold">Parts</caption>
          <tbody>
            {parts.map((fit) => (
              <tr key={fit.place} className="border-t border-line">
                <th scope="row" className="w-44 py-0.5 text-left font-normal text-quiet">
                  {fit.label}
                </th>
                <td className="py-0.5">{fit.name}</td>
                <td className="py-0.5 text-right text-quiet">{base && fit.own && "changed"}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p className="mt-4 mb-2 text-note text-quiet">
        {configuration.used_in.length
          ? `In reviews: ${configuration.used_in.join(" · ")}`
          : "In no review yet."}
      </p>
      <div className="flex flex-wrap items-center gap-3">
        {edits && <Button onClick={() => void copy()}>Duplicate</Button>}
        {edits && (
          <Button onClick={() => archive(!configuration.archived_at)}>
            {configuration.archived_at ? "Bring back" : "Archive"}
          </Button>
        )}
        {edits && configuration.used_in.length === 0 && (
          <Button
            onClick={() =>
              void run(() => act("DELETE", path), {
                said: `${configuration.title} is deleted.`,
                made: "systems",
              })
            }
          >
            Delete
          </Button>
        )}
        <History kind="configuration" id={configuration.id} name={configuration.title} />
      </div>
      {open && (
        <EditConfiguration
          system={system}
          configuration={open === "edit" ? configuration : undefined}
          base={open === "but" ? configuration : base}
          onClose={() => setOpen(null)}
          onStored={onChoose}
        />
      )}
    </section>
  );
}

function SettingsTable({ rows }: { rows: Shapes["SettingShape"][] }) {
  if (!rows.length) return <p className="text-note text-quiet">Nothing is set on it.</p>;
  const text = (row: Shapes["SettingShape"], value: unknown) =>
    value === null || value === undefined ? "" : `${String(value)} ${row.unit}`.trim();
  return (
    <table className="w-full border-collapse bg-sheet text-note">
      <thead>
        <tr className="border border-line text-left">
          {["Setting", "Rated", "Set", "Observed", ""].map((words, at) => (
            <th key={at} scope="col" className="px-2.5 py-1">
              {words}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.key} className="border border-line" title={row.group}>
            <th scope="row" className="px-2.5 py-1 text-left font-normal">
              {row.label}
            </th>
            <td className="px-2.5 py-1 text-quiet">{text(row, row.rated)}</td>
            <td className={`px-2.5 py-1 ${row.own ? "font-semibold" : ""}`}>{text(row, row.value)}</td>
            <td className="px-2.5 py-1" title={row.observed_source}>
              {text(row, row.observed)}
            </td>
            <td className="px-2.5 py-1 text-mark">{row.flag && `⚑ ${row.flag}`}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
