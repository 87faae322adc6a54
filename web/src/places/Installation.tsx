import { useQuery } from "@tanstack/react-query";
import type { Shapes } from "../api/client";
import { installationQuery } from "../api/queries";
import { ListHead } from "../design/ListHead";
import { When } from "../design/When";
import { bytes, count, fixed } from "../marks/words";
import { Failed, Loading } from "../shell/States";

type Part = Shapes["InstallationPartShape"];
type Backup = Shapes["BackupShape"];

/** What each part does, for whoever has to look after it. */
const PARTS: Record<string, string> = {
  database: "keeps everything",
  schema: "the database's tables, as this version wants them",
  worker: "imports, checks and figures in the background",
  queue: "what waits for the worker",
  clock: "this machine's time",
  backups: "copies of everything, on a schedule",
  disk: "room for what comes in",
};

/** How the installation is, and its backups. For admins. */
export function Installation() {
  const found = useQuery(installationQuery);
  if (found.isPending) return <Loading />;
  if (found.isError) return <Failed error={found.error} again={() => void found.refetch()} />;
  const { parts, backups, version, backup_every_h, backups_kept } = found.data;
  return (
    <main className="mx-auto w-full max-w-[1000px] p-5">
      <ListHead title="Installation">
        <span className="text-note text-quiet">version {version}</span>
      </ListHead>
      <table className="w-full text-note">
        <thead>
          <tr className="border-b-2 border-ink text-left">
            <th className="w-28 py-1.5 font-semibold">Part</th>
            <th className="w-24 font-semibold">State</th>
            <th className="font-semibold">What there is to say</th>
          </tr>
        </thead>
        <tbody>
          {parts.map((part) => (
            <PartRow key={part.part} part={part} />
          ))}
        </tbody>
      </table>
      <section aria-label="Backups" className="mt-10">
        <div className="mb-1 flex items-baseline justify-between border-b-2 border-ink pb-1">
          <h2 className="font-serif text-lead font-semibold">Backups</h2>
          <span className="text-note text-quiet">
            {backup_every_h
              ? `one every ${count(backup_every_h, "hour")}, the last ${backups_kept} are kept`
              : "no schedule is set"}
          </span>
        </div>
        {!backups.length && (
          <p className="py-2 text-note">
            None yet. <code>nomothet-server backup</code> makes one now.
          </p>
        )}
        {backups.map((one) => (
          <BackupRow key={one.id} backup={one} />
        ))}
        <p className="mt-2 text-small text-quiet">
          <code>nomothet-server check BACKUP</code> restores one beside the installation and looks at what
          comes out; <code>nomothet-server restore BACKUP</code> brings it back.
        </p>
      </section>
    </main>
  );
}

function PartRow({ part }: { part: Part }) {
  const well = part.state === "well";
  return (
    <tr className="border-b border-line align-baseline">
      <td className="py-1.5">{part.part}</td>
      <td>{well ? "well" : <strong className="text-mark">{part.state}</strong>}</td>
      <td className={well ? "text-quiet" : ""}>
        {part.words.length
          ? part.words.join(" ")
          : [PARTS[part.part], figure(part)].filter(Boolean).join("; ")}
      </td>
    </tr>
  );
}

/** The one figure of a part that is worth a look while all is well. */
function figure({ part, figures }: Part): string {
  const { free_bytes, total_bytes, waiting } = figures;
  if (part === "disk" && free_bytes !== undefined && total_bytes !== undefined)
    return `${bytes(free_bytes)} of ${bytes(total_bytes)} free`;
  if (part === "queue" && waiting !== undefined)
    return waiting ? `${count(waiting, "task")} now` : "nothing now";
  return "";
}

function BackupRow({ backup }: { backup: Backup }) {
  const { at, folder, name, size, took_s, encrypted, problem, checked_at, found } = backup;
  return (
    <p className="flex gap-4 border-b border-line py-1.5 text-note">
      <span className="w-32 shrink-0 text-quiet">
        <When at={at} />
      </span>
      {problem ? (
        <span>
          <strong className="text-mark">failed</strong> {problem}
        </span>
      ) : (
        <span className="min-w-0">
          <span className="break-all">
            {folder}/{name}
          </span>
          <span className="block text-quiet">
            {bytes(size)} in {fixed(took_s, 1)} s, {encrypted ? "encrypted" : "not encrypted"},{" "}
            {!checked_at ? (
              "not checked"
            ) : found ? (
              <strong className="text-mark">checked, faults were found: {found}</strong>
            ) : (
              <>
                checked <When at={checked_at} />, nothing wrong
              </>
            )}
          </span>
        </span>
      )}
    </p>
  );
}
