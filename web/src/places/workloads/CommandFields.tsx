import type { WorkloadShape } from "../../api/client";
import { Field } from "../../design/Field";
import { lineOf, linesOf, wordsOf } from "./commandText";

type Command = {
  arguments?: string[];
  environment?: Record<string, string>;
  directory?: string;
  time_limit_s?: number | null;
  warm_ups?: number;
  cool_to_c?: number | null;
  cool_s?: number | null;
  nice?: number;
  prepare?: string[][];
  clean_up?: string[][];
  files?: string[];
};

/** How a bench starts a workload that does not ship with it. */
export function CommandFields({ workload }: { workload: WorkloadShape }) {
  const command = workload.command as Command;
  return (
    <details open={workload.runner === "command"} className="mb-4 text-note">
      <summary className="font-semibold">Started by a command</summary>
      <p className="my-1 text-quiet">
        Words are parted by spaces; a word with spaces stands in double quotes. {"{size}"} stands for the
        test&rsquo;s setting of that name. Nothing passes through a shell. A change wants a new approval.
      </p>
      <Field label="Command">
        <input name="arguments" defaultValue={lineOf(command.arguments ?? [])} />
      </Field>
      <Field label="Runs in this directory" hint="Without one, in an empty directory of its own.">
        <input name="directory" defaultValue={command.directory ?? ""} />
      </Field>
      <Field label="Environment, a line each: NAME=value">
        <textarea
          name="environment"
          rows={2}
          defaultValue={Object.entries(command.environment ?? {})
            .map(([name, value]) => `${name}=${value}`)
            .join("\n")}
        />
      </Field>
      <div className="grid grid-cols-2 gap-3">
        <Field label="Before it, a command a line">
          <textarea name="prepare" rows={2} defaultValue={(command.prepare ?? []).map(lineOf).join("\n")} />
        </Field>
        <Field label="After it, whatever happens">
          <textarea name="clean_up" rows={2} defaultValue={(command.clean_up ?? []).map(lineOf).join("\n")} />
        </Field>
        <Field label="At most, in seconds">
          <input name="time_limit_s" inputMode="decimal" defaultValue={command.time_limit_s ?? ""} />
        </Field>
        <Field label="Warm-up runs thrown away">
          <input name="warm_ups" inputMode="numeric" defaultValue={command.warm_ups ?? ""} />
        </Field>
        <Field label="Cool down to, in °C">
          <input name="cool_to_c" inputMode="decimal" defaultValue={command.cool_to_c ?? ""} />
        </Field>
        <Field label="Cool down for, in seconds">
          <input name="cool_s" inputMode="decimal" defaultValue={command.cool_s ?? ""} />
        </Field>
        <Field label="Files it writes, read by the rules">
          <input name="command_files" defaultValue={(command.files ?? []).join(" ")} />
        </Field>
        <Field label="Niceness, 0 to 19">
          <input name="nice" inputMode="numeric" defaultValue={command.nice ?? ""} />
        </Field>
      </div>
    </details>
  );
}

/** The command that the fields say, or null where none is given. */
export function commandOf(form: FormData): Command | null {
  const text = (name: string) => String(form.get(name) ?? "").trim();
  const words = wordsOf(text("arguments"));
  if (!words.length) return null;
  const command: Command = { arguments: words };
  const number = (name: "time_limit_s" | "warm_ups" | "cool_to_c" | "cool_s" | "nice") => {
    if (text(name)) command[name] = Number(text(name));
  };
  number("time_limit_s");
  number("warm_ups");
  number("cool_to_c");
  number("cool_s");
  number("nice");
  if (text("directory")) command.directory = text("directory");
  const environment = linesOf(text("environment")).map((line) => line.split(/=(.*)/s));
  if (environment.length)
    command.environment = Object.fromEntries(environment.map(([name, value]) => [name ?? "", value ?? ""]));
  for (const name of ["prepare", "clean_up"] as const) {
    if (text(name)) command[name] = linesOf(text(name)).map(wordsOf);
  }
  if (text("command_files")) command.files = text("command_files").split(/\s+/);
  return command;
}
