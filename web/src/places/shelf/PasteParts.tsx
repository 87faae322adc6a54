import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../api/acts";
import type { CatalogueShape, Shapes } from "../../api/client";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import { useAct } from "../../design/useAct";
import { useDraft } from "../../design/useDraft";
import { count } from "../../marks/words";

interface Props {
  catalogue: CatalogueShape;
  /** The kind to begin with. */
  kind: string;
  onClose: () => void;
}

/** Several parts of one kind from a table: a line for each, a column for each attribute; looked at while it is typed. */
export function PasteParts({ catalogue, kind: first, onClose }: Props) {
  const run = useAct();
  const [kind, setKind] = useState(first);
  const [source, setSource] = useState("unknown");
  const [text, setText, drop] = useDraft("parts", "");
  const known = catalogue.kinds.find((one) => one.key === kind);
  const read = useQuery({
    queryKey: ["pasted-parts", kind, source, text],
    queryFn: () => act<Shapes["PastedPartsShape"]>("POST", "/api/parts/pasted", { kind, source, text }),
    enabled: text.trim().includes("\n"),
    retry: false,
    gcTime: 0,
    placeholderData: (before) => before,
  });
  const rows = text.trim().includes("\n") ? (read.data?.parts ?? []) : [];
  const fresh = rows.filter((row) => !row.there && !row.problem).length;
  const wrong = rows.filter((row) => row.problem).length;
  const add = async () => {
    const stored = await run(
      () => act<Shapes["PastedPartsShape"]>("POST", "/api/parts/pasted", { kind, source, text, store: true }),
      { said: `${count(fresh, "part")} added.`, made: "shelf" },
    );
    if (!stored) return;
    drop();
    onClose();
  };
  return (
    <Dialog open onClose={onClose} title="Several parts of one kind" wide>
      <div className="grid grid-cols-2 gap-3">
        <Field label="Kind">
          <select value={kind} onChange={(event) => setKind(event.target.value)}>
            {catalogue.kinds.map((one) => (
              <option key={one.key} value={one.key}>
                {one.label}
              </option>
            ))}
          </select>
        </Field>
        <Field label="Known from">
          <select value={source} onChange={(event) => setSource(event.target.value)}>
            {catalogue.sources.map((one) => (
              <option key={one} value={one}>
                {one === "unknown" ? "not said" : one}
              </option>
            ))}
          </select>
        </Field>
      </div>
      <Field
        label="The table"
        hint={`The first line names the columns: name, and any of ${known?.attributes.map((one) => one.label).join(", ")}, origin, price and basis, or others. A unit may stand behind a name in brackets; prices are in EUR of today.`}
      >
        <textarea
          rows={6}
          autoFocus
          spellCheck={false}
          value={text}
          placeholder={`name | ${known?.attributes.map((one) => one.label).join(" | ")}`}
          onChange={(event) => setText(event.target.value)}
        />
      </Field>
      {read.error && (
        <p role="alert" className="mb-2 text-note text-mark">
          {read.error.message}
        </p>
      )}
      {rows.length > 0 && (
        <ul aria-label="The parts of the table" className="mb-3 max-h-52 overflow-auto text-note">
          {rows.map((row) => (
            <li key={row.line} className="border-t border-line py-0.5">
              <strong>{row.name}</strong> <span className="text-quiet">{row.facts.join(" · ")}</span>
              {row.problem ? (
                <span className="block text-mark">
                  ⚑ Line {row.line}: {row.problem}
                </span>
              ) : (
                row.there && <span className="text-quiet"> · on the shelf already</span>
              )}
            </li>
          ))}
        </ul>
      )}
      <div className="flex items-center gap-3">
        <Button kind="strong" disabled={!fresh || wrong > 0 || read.isFetching} onClick={() => void add()}>
          Add {count(fresh, "part")}
        </Button>
        <Button onClick={onClose}>Not now</Button>
        {wrong > 0 && (
          <span className="text-note text-mark">{count(wrong, "line")} must be put right first.</span>
        )}
      </div>
    </Dialog>
  );
}
