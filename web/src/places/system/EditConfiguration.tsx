import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, type FormEvent } from "react";
import { addConfiguration, editConfiguration, populate, type Build } from "../../api/acts";
import {
  Problem,
  type ConfigurationShape,
  type PartShape,
  type Shapes,
  type SystemDetail,
} from "../../api/client";
import { catalogueQuery, partsQuery } from "../../api/queries";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import { Population } from "../../marks/Population";
import { keyOf, SlotMap, type ModuleChoice } from "../../marks/SlotMap";
import { refresh } from "../../api/stale";
import { modulesOf } from "./modules";
import { SettingRows, type SettingRow } from "./SettingRows";

interface Props {
  system: SystemDetail;
  /** The one that is edited; without it a new one is made. */
  configuration?: ConfigurationShape;
  base?: ConfigurationShape;
  onClose: () => void;
  onStored: (configuration: number) => void;
}

/** Make or change a configuration: the same as its base, but for what is changed here. */
export function EditConfiguration({ system, configuration, base: first, onClose, onStored }: Props) {
  const client = useQueryClient();
  const parts = useQuery(partsQuery());
  const catalogue = useQuery(catalogueQuery);
  const began = configuration ?? first;
  const [base, setBase] = useState(first);
  const [slots, setSlots] = useState(() => (began ? modulesOf(began) : {}));
  const [places, setPlaces] = useState<Record<string, number>>(() =>
    Object.fromEntries(
      (began?.fitted ?? [])
        .filter((fit) => !fit.place.startsWith("slot ") && fit.part !== null)
        .map((fit) => [fit.place, fit.part ?? 0]),
    ),
  );
  const [settings, setSettings] = useState<SettingRow[]>(() =>
    Object.entries(began?.settings ?? {}).map(([key, value]) => ({ key, value: String(value) })),
  );
  const [problem, setProblem] = useState<Problem | null>(null);
  const amount = usePopulation(system.id, slots, settings);

  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const build: Build = {
      name: String(form.get("name")),
      note: String(form.get("note")),
      blocked: String(form.get("blocked")),
      base: base?.id ?? null,
      settings: settingChanges(base, settings),
      fitted: fittedChanges(base, places, slots),
    };
    try {
      const stored = configuration
        ? await editConfiguration(configuration.id, configuration.version, build)
        : await addConfiguration(system.id, build);
      void refresh(client, "systems");
      onStored(stored.id);
      onClose();
    } catch (error) {
      setProblem(error instanceof Problem ? error : new Problem(0, "", (error as Error).message));
    }
  };
  const title = configuration
    ? `Edit ${configuration.title}${configuration.frozen ? ": this makes a revision" : ""}`
    : base
      ? `The same as ${base.title}, but …`
      : "A configuration";
  const marked = [...(amount && "mistakes" in amount ? amount.mistakes.flatMap((one) => one.slots) : [])];
  return (
    <Dialog open onClose={onClose} title={title} wide>
      <form onSubmit={(event) => void submit(event)}>
        <div className="grid grid-cols-2 gap-3">
          <Field label="Name">
            <input
              name="name"
              required
              maxLength={120}
              defaultValue={configuration?.name ?? (first ? `${first.name}, ` : `${system.name} `)}
              readOnly={configuration?.frozen}
            />
          </Field>
          <Field label="The same as">
            <select
              value={base?.id ?? ""}
              onChange={(event) =>
                setBase(system.configurations.find((one) => one.id === Number(event.target.value)))
              }
            >
              <option value="">nothing, it stands for itself</option>
              {system.configurations
                .filter((one) => one.id !== configuration?.id && !one.archived_at)
                .map((one) => (
                  <option key={one.id} value={one.id}>
                    {one.title}
                  </option>
                ))}
            </select>
          </Field>
        </div>
        <Field label="Note">
          <input name="note" maxLength={200} defaultValue={configuration?.note ?? ""} />
        </Field>
        {system.slots.length > 0 && parts.data && (
          <Slots system={system} parts={parts.data} slots={slots} setSlots={setSlots} marked={marked}>
            {amount instanceof Problem ? (
              <p role="alert" className="mt-2 text-note text-mark">
                {amount.message}
              </p>
            ) : (
              amount && <Population shape={amount} />
            )}
          </Slots>
        )}
        <SettingRows rows={settings} onChange={setSettings} base={base?.settings ?? {}} />
        {parts.data && catalogue.data && (
          <Places
            places={places}
            setPlaces={setPlaces}
            parts={parts.data}
            kinds={catalogue.data.kinds.filter((kind) => kind.key !== "memory_kit" || !system.slots.length)}
          />
        )}
        <Field
          label="Cannot be built because"
          hint="Leave it empty when it can. A blocked configuration is kept with its reason and owes no passes."
        >
          <input name="blocked" maxLength={200} defaultValue={configuration?.blocked ?? ""} />
        </Field>
        {problem && (
          <p role="alert" className="mb-3 text-note text-mark">
            {problem.message}
          </p>
        )}
        <div className="flex gap-3">
          <Button kind="strong" type="submit">
            {configuration?.frozen ? "Make the revision" : configuration ? "Save" : "Add it"}
          </Button>
          <Button onClick={onClose}>Leave as it is</Button>
        </div>
      </form>
    </Dialog>
  );
}

/** What the modules amount to where they are put, as the server computes it. */
function usePopulation(
  system: number,
  slots: Record<string, ModuleChoice | undefined>,
  settings: SettingRow[],
): Shapes["PopulationShape"] | Problem | null {
  const [amount, setAmount] = useState<Shapes["PopulationShape"] | Problem | null>(null);
  const rate = settings.find((row) => row.key === "memory_mts")?.value ?? "";
  const asked = JSON.stringify([slots, rate]);
  useEffect(() => {
    let current = true;
    const [put, mts] = JSON.parse(asked) as [Record<string, ModuleChoice>, string];
    const fitted = Object.fromEntries(
      Object.entries(put).map(([name, one]) => [`slot ${name}`, { part: one.part, module: one.module }]),
    );
    const set = Number(mts) > 0 ? { memory_mts: Number(mts) } : {};
    populate(system, fitted, set)
      .then((shape) => current && setAmount(shape))
      .catch((error: Problem) => current && setAmount(error));
    return () => {
      current = false;
    };
  }, [system, asked]);
  return Object.keys(slots).some((name) => slots[name]) ? amount : null;
}

interface SlotsProps {
  system: SystemDetail;
  parts: PartShape[];
  slots: Record<string, ModuleChoice | undefined>;
  setSlots: React.Dispatch<React.SetStateAction<Record<string, ModuleChoice | undefined>>>;
  marked: string[];
  children: React.ReactNode;
}

function Slots({ system, parts, slots, setSlots, marked, children }: SlotsProps) {
  const kits = parts.filter((part) => part.kind === "memory_kit");
  const choices = kits.flatMap((kit) => {
    const count = Number(kit.attributes.find((one) => one.key === "modules")?.value ?? 1);
    return Array.from({ length: count }, (_, at) => ({
      part: kit.id,
      module: at + 1,
      words: `${kit.name}, no. ${at + 1}`,
    }));
  });
  const put = (slot: string, module: ModuleChoice | null) =>
    setSlots((before) => {
      // A module sits in one slot at a time.
      const others = Object.entries(before).filter(
        ([name, one]) => name !== slot && !(module && one && keyOf(one) === keyOf(module)),
      );
      return Object.fromEntries(module ? [...others, [slot, module]] : others);
    });
  const free = choices.filter(
    (one) => !Object.values(slots).some((sits) => sits && keyOf(sits) === keyOf(one)),
  );
  return (
    <fieldset className="mb-4">
      <legend className="mb-1 text-note font-semibold">Memory</legend>
      <SlotMap slots={system.slots} fitted={slots} marked={marked} choices={choices} onPut={put} />
      {children}
      <p className="mt-2 text-small text-quiet">
        Drag a module into a slot, or choose one on the slot. On the shelf:
      </p>
      <ul className="mt-1 flex flex-wrap gap-1.5">
        {free.map((one) => (
          <li
            key={keyOf(one)}
            draggable
            onDragStart={(event) => event.dataTransfer.setData("text/module", keyOf(one))}
            className="cursor-grab border border-line bg-paper px-2 py-0.5 text-small"
          >
            {one.words}
          </li>
        ))}
      </ul>
    </fieldset>
  );
}

interface PlacesProps {
  places: Record<string, number>;
  setPlaces: (next: Record<string, number>) => void;
  parts: PartShape[];
  kinds: Shapes["KindShape"][];
}

function Places({ places, setPlaces, parts, kinds }: PlacesProps) {
  const offered = kinds.filter((kind) => parts.some((part) => part.kind === kind.key));
  const rows = offered.flatMap((kind) => placesOf(kind, places));
  return (
    <details className="mb-4 text-note">
      <summary className="font-semibold">Parts ({Object.keys(places).length} fitted)</summary>
      <div className="mt-1 grid grid-cols-2 gap-x-4 gap-y-1">
        {rows.map(({ place, kind, words }) => (
          <label key={place} className="flex items-center justify-between gap-2">
            <span>{words}</span>
            <select
              className="w-52 border border-line bg-sheet px-1 py-0.5"
              value={places[place] ?? ""}
              onChange={(event) => {
                const rest = Object.fromEntries(Object.entries(places).filter(([other]) => other !== place));
                setPlaces(event.target.value ? { ...rest, [place]: Number(event.target.value) } : rest);
              }}
            >
              <option value="">{place === kind.key ? "none" : "no further one"}</option>
              {parts
                .filter((part) => part.kind === kind.key)
                .map((part) => (
                  <option key={part.id} value={part.id}>
                    {part.name}
                  </option>
                ))}
            </select>
          </label>
        ))}
      </div>
    </details>
  );
}

/** The places of a kind: those that are filled, and the next free one where a system may have several. */
export function placesOf(
  kind: Shapes["KindShape"],
  places: Record<string, number>,
): { place: string; kind: Shapes["KindShape"]; words: string }[] {
  const place = (n: number) => (n === 1 ? kind.key : `${kind.key} ${n}`);
  let filled = Array.from({ length: 16 }, (_, at) => at + 1).filter((n) => places[place(n)]);
  if (!kind.several) filled = filled.slice(0, 1);
  const free =
    filled.length === 0 ? [1] : kind.several && filled.length < 16 ? [Math.max(...filled) + 1] : [];
  return [...new Set([...filled, ...free])]
    .filter((n) => n <= 16)
    .map((n) => ({ place: place(n), kind, words: n === 1 ? kind.label : `${kind.label} ${n}` }));
}

/** The smallest changes that make the wanted settings out of the base's; null takes one away. */
function settingChanges(base: ConfigurationShape | undefined, rows: SettingRow[]): Record<string, unknown> {
  const inherited = base?.settings ?? {};
  const wanted = Object.fromEntries(
    rows.filter((row) => row.key && row.value !== "").map((r) => [r.key, r.value]),
  );
  const changes: Record<string, unknown> = {};
  for (const [key, value] of Object.entries(wanted)) {
    if (String(inherited[key] ?? "") !== value) changes[key] = value;
  }
  for (const key of Object.keys(inherited)) if (!(key in wanted)) changes[key] = null;
  return changes;
}

function fittedChanges(
  base: ConfigurationShape | undefined,
  places: Record<string, number>,
  slots: Record<string, ModuleChoice | undefined>,
): NonNullable<Build["fitted"]> {
  const inherited = new Map((base?.fitted ?? []).map((fit) => [fit.place, fit]));
  const wanted = new Map<string, { part: number; module: number | null }>();
  for (const [place, part] of Object.entries(places)) wanted.set(place, { part, module: null });
  for (const [slot, one] of Object.entries(slots)) {
    if (one) wanted.set(`slot ${slot}`, { part: one.part, module: one.module });
  }
  const changes: NonNullable<Build["fitted"]> = {};
  for (const [place, one] of wanted) {
    const before = inherited.get(place);
    if (before?.part !== one.part || before.module !== one.module) changes[place] = one;
  }
  for (const place of inherited.keys()) if (!wanted.has(place)) changes[place] = null;
  return changes;
}
