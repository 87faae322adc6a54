import { useQuery } from "@tanstack/react-query";
import { rawFilesQuery } from "../../api/queries";
import type { Shapes } from "../../api/client";
import { bytes, count } from "../../marks/words";

type Choice = Shapes["RawChoice"];

/** Which raw captures go out with a record, with what they hold; the form reads which boxes are ticked. */
export function RawFiles({ review }: { review: number }) {
  const { data } = useQuery(rawFilesQuery(review));
  if (!data) return <p className="mb-3 text-note text-quiet">Looking at what was captured…</p>;
  const frames = data.filter((one) => one.fixed);
  const sensors = data.filter((one) => one.kind === "sensor");
  const files = data.filter((one) => one.kind === "file");
  if (!data.length) return null;
  return (
    <fieldset className="mb-3">
      <legend className="font-semibold">Raw captures that go out</legend>
      {frames.map((one) => (
        <p key={one.name} className="py-0.5 text-note">
          Frame times of {held(one)}; they always go, so that readers can work the figures out again.
        </p>
      ))}
      {sensors.length > 0 && (
        <details className="py-0.5 text-note">
          <summary>{count(sensors.length, "sensor")}, all of which go unless you take one out</summary>
          <ul className="max-h-40 overflow-y-auto border-l border-line pl-3">
            {sensors.map((one) => (
              <li key={`${one.name} ${one.unit}`}>
                <label className="flex items-baseline gap-2 py-0.5">
                  <input type="checkbox" name="sensor" value={one.name} defaultChecked={one.goes} />
                  <span>
                    {one.name}
                    {one.unit && `, ${one.unit}`} <span className="text-quiet">{held(one)}</span>
                  </span>
                </label>
              </li>
            ))}
          </ul>
        </details>
      )}
      {files.length > 0 && (
        <details className="py-0.5 text-note" open>
          <summary>Original files, as they were dropped</summary>
          <label className="flex items-baseline gap-2 py-1">
            <input type="checkbox" name="with_files" />
            <span>
              let them go out too: {files.map(held).join(", ")}. They may name people, folders and machines.
            </span>
          </label>
          {files.map((one) => (
            <pre
              key={one.name}
              className="mt-1 max-h-28 overflow-auto border-l border-line pl-3 text-small whitespace-pre-wrap"
            >
              {[...one.sources, one.beginning].join("\n")}
            </pre>
          ))}
        </details>
      )}
      <p className="text-small text-quiet">What programs wrote (their output) always stays inside.</p>
    </fieldset>
  );
}

function held(one: Choice): string {
  return `${count(one.passes, "pass")}, ${bytes(one.bytes)}`;
}
