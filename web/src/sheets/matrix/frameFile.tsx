import { useQueryClient } from "@tanstack/react-query";
import { useState, type ReactNode, type RefObject } from "react";
import { sendFrames } from "../../api/acts";
import { Problem } from "../../api/client";
import { keys } from "../../api/queries";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { useNotices } from "../../design/Notices";
import type { CellPlace } from "./place";

interface FrameFile {
  send: (cell: CellPlace, file: File) => void;
  dialog: ReactNode;
}

/** Sending a file of frame times to a cell; a file that cannot be taken is explained, and nothing is changed. */
export function useFrameFile(review: number): FrameFile {
  const client = useQueryClient();
  const { tell } = useNotices();
  const [refused, setRefused] = useState<{ file: string; problem: Error } | null>(null);
  const [busy, setBusy] = useState("");
  const send = async (cell: CellPlace, file: File) => {
    setBusy(file.name);
    try {
      await sendFrames(review, cell.test, cell.column, file);
      for (const queryKey of [keys.matrix(review), keys.cells(review), keys.reviews]) {
        void client.invalidateQueries({ queryKey });
      }
      tell(`${file.name} is now a pass. It can be set aside like any other.`);
    } catch (problem) {
      setRefused({ file: file.name, problem: problem as Error });
    } finally {
      setBusy("");
    }
  };
  const row = refused?.problem instanceof Problem ? refused.problem.members.row : undefined;
  const dialog = (
    <>
      {busy && (
        <p
          role="status"
          className="fixed bottom-5 left-5 z-40 border border-ink bg-sheet px-3 py-2 text-note"
        >
          Reading {busy} …
        </p>
      )}
      <Dialog
        open={refused !== null}
        onClose={() => setRefused(null)}
        title={`${refused?.file ?? ""} was not taken`}
      >
        <div role="alert">
          {typeof row === "number" && <p className="mb-1 font-semibold">Row {row} of the file</p>}
          <p>{refused?.problem.message}</p>
        </div>
        <p className="mt-2 text-note text-quiet">
          Nothing was stored. A file needs a header line and a column of frame times in milliseconds, or of
          timestamps.
        </p>
        <Button kind="strong" className="mt-4" onClick={() => setRefused(null)}>
          Close
        </Button>
      </Dialog>
    </>
  );
  return { send: (cell, file) => void send(cell, file), dialog };
}

/** The file picker that the key `i` opens. */
export function FilePicker({
  picker,
  onFile,
}: {
  picker: RefObject<HTMLInputElement | null>;
  onFile: (file: File) => void;
}) {
  return (
    <input
      ref={picker}
      type="file"
      className="hidden"
      aria-label="File of frame times"
      data-frame-file
      onChange={(event) => {
        const file = event.target.files?.[0];
        event.target.value = "";
        if (file) onFile(file);
      }}
    />
  );
}
