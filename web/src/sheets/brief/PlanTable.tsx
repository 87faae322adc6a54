import { useState } from "react";
import type { Shapes } from "../../api/client";
import { Button } from "../../design/Button";
import { Menu } from "../../design/Menu";
import { count } from "../../marks/words";
import type { Opened } from "./opened";
import { AcceptDialog } from "./AcceptDialog";
import { DeclareTogether } from "./DeclareTogether";
import { NewPartRow } from "./NewPartRow";
import { NewSetting } from "./NewSetting";
import { ColumnHead } from "./ColumnHead";
import { PasteDialog } from "./PasteDialog";
import { SettingCell } from "./SettingCell";
import { useBriefAct, type BriefAct } from "./useBriefAct";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";

type DifferenceRow = Shapes["DifferenceRow"];

interface Props {
  /** What the plan check points at. */
  lit: string | null;
  open: Opened;
  setOpen: (next: Opened) => void;
}

/** The difference table with its acts: declare, make equal, accept; cells can be typed in, and a table pasted. */
export function PlanTable({ lit, open, setOpen }: Props) {
  const may = useMay()("edit_review");
  const review = useReview();
  const act = useBriefAct(review);
  const [pasted, setPasted] = useState("");
  const [accepting, setAccepting] = useState<DifferenceRow | null>(null);
  const { rows, constant } = review.differences;
  const caveats = review.differences.caveats.map((one) => one.aspect);
  const [unfolded, setUnfolded] = useState<string[]>([]);
  const heads = rows.filter((row) => !foldedUnder(row, rows, caveats));
  const within = (key: string) => rows.filter((row) => foldedUnder(row, rows, caveats) === key);
  const openRows = rows.filter(
    (row) => row.kind === "undeclared" && !rows.some((other) => row.parents.includes(other.key)),
  );
  const undeclared = openRows.length;
  const [together, setTogether] = useState(false);
  const [adding, setAdding] = useState<"setting" | "part" | null>(null);
  return (
    <section
      aria-label="Configurations"
      onPaste={(event) => {
        const text = event.clipboardData.getData("text/plain");
        if (!may || !text.includes("\t") || (event.target as HTMLElement).closest("input")) return;
        event.preventDefault();
        setPasted(text);
        setOpen("paste");
      }}
    >
      <div className="mb-2 flex items-center justify-between gap-3">
        <h2 className="font-serif text-lead font-semibold">Configurations</h2>
        {may && (
          <span className="flex gap-2">
            <Button
              onClick={() => {
                setPasted("");
                setOpen("paste");
              }}
            >
              Paste a table
            </Button>
            <Button onClick={() => setOpen("column")}>Add a configuration</Button>
          </span>
        )}
      </div>
      {review.columns.length === 0 ? (
        <p className="text-note text-quiet">
          None yet. Add the first one{review.single ? "." : "; it becomes the baseline."}
        </p>
      ) : (
        <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="What differs">
          <table className="w-full min-w-[640px] border-collapse bg-sheet text-note">
            <thead>
              <tr className="border border-line text-left align-top">
                <th scope="col" className="px-2.5 py-1.5">
                  What differs
                  <span className="block font-normal text-quiet">
                    {undeclared ? (
                      <span className="text-mark">⚑ {undeclared} undeclared</span>
                    ) : (
                      "all declared or accepted"
                    )}
                  </span>
                  {may && undeclared > 1 && (
                    <Button kind="link" className="text-small font-normal" onClick={() => setTogether(true)}>
                      declare several as one factor
                    </Button>
                  )}
                </th>
                {review.columns.map((column) => (
                  <ColumnHead key={column.id} column={column} act={act} />
                ))}
              </tr>
            </thead>
            <tbody>
              {[...heads]
                .sort((a, b) => rank(a) - rank(b))
                .flatMap((head) => {
                  const inside = within(head.key);
                  const shown = unfolded.includes(head.key) || inside.some((row) => row.key === lit);
                  return [head, ...(shown ? inside : [])].map((row) => (
                    <Row
                      key={row.key}
                      row={row}
                      act={act}
                      lit={lit === row.key}
                      onAccept={() => setAccepting(row)}
                      fold={
                        row === head && inside.length
                          ? {
                              count: inside.length,
                              shown,
                              toggle: () =>
                                setUnfolded((all) =>
                                  shown ? all.filter((key) => key !== head.key) : [...all, head.key],
                                ),
                            }
                          : undefined
                      }
                    />
                  ));
                })}
              {adding === "setting" && <NewSetting act={act} onDone={() => setAdding(null)} />}
              {adding === "part" && <NewPartRow act={act} onDone={() => setAdding(null)} />}
              {rows.length === 0 && (
                <tr className="border border-line">
                  <td colSpan={review.columns.length + 1} className="px-2.5 py-2 text-quiet">
                    {review.columns.length < 2
                      ? "With a second configuration, this table shows what differs between the two."
                      : "Nothing differs."}
                  </td>
                </tr>
              )}
            </tbody>
          </table>
        </div>
      )}
      {constant.length > 0 && (
        <p className="mt-1.5 text-note text-quiet">the same in all: {constant.join(" · ")}</p>
      )}
      {may && review.columns.length > 0 && adding === null && (
        <span className="mt-1 flex gap-4 text-note">
          <Button kind="link" onClick={() => setAdding("setting")}>
            Set one more setting
          </Button>
          <Button kind="link" onClick={() => setAdding("part")}>
            Fit a part
          </Button>
        </span>
      )}
      {together && <DeclareTogether rows={openRows} act={act} onClose={() => setTogether(false)} />}
      {accepting && <AcceptDialog row={accepting} act={act} onClose={() => setAccepting(null)} />}
      {open === "paste" && <PasteDialog text={pasted} act={act} onClose={() => setOpen(null)} />}
    </section>
  );
}

/** The declared or accepted row that a row comes with, so that it need not be shown by itself. */
function foldedUnder(row: DifferenceRow, rows: DifferenceRow[], caveats: string[]): string | null {
  const settled = (key: string) =>
    rows.some((other) => other.key === key && other.key !== row.key && other.kind !== "undeclared");
  if (row.kind === "observed" || caveats.includes(row.key)) return null;
  return [...row.parents].reverse().find(settled) ?? null;
}

/** What the review varies comes first, then what needs a decision. */
function rank(row: DifferenceRow): number {
  return { factor: 0, undeclared: 1, observed: 1, accepted: 2 }[row.kind] ?? 1;
}

interface RowProps {
  row: DifferenceRow;
  act: BriefAct;
  lit: boolean;
  onAccept: () => void;
  /** What comes with this row, folded away. */
  fold?: { count: number; shown: boolean; toggle: () => void };
}

function Row({ row, act, lit, onAccept, fold }: RowProps) {
  const may = useMay()("edit_review");
  const review = useReview();
  const child = review.differences.rows.some((other) => row.parents.includes(other.key));
  const acts = may && row.kind === "undeclared" && !child;
  return (
    <tr
      className={`border border-line align-top ${lit ? "bg-band outline-2 outline-mark" : ""}`}
      data-aspect={row.key}
    >
      <th scope="row" className={`px-2.5 py-1.5 text-left font-normal ${child ? "pl-6 text-quiet" : ""}`}>
        {child ? row.label.split(": ").pop() : row.label}
        {!child && (
          <span className={`block text-small ${row.kind === "undeclared" ? "text-mark" : "text-quiet"}`}>
            {row.kind === "undeclared" && "⚑ "}
            {row.kind === "factor" ? "varied on purpose" : row.remark}
          </span>
        )}
        {fold && (
          <Button kind="link" className="text-small" aria-expanded={fold.shown} onClick={fold.toggle}>
            {fold.shown ? "fold" : `show the ${count(fold.count, "difference")} that come with it`}
          </Button>
        )}
        {may && child && row.kind === "factor" && (
          <Button kind="link" className="block text-small" onClick={onAccept}>
            give it a caveat of its own
          </Button>
        )}
        {acts && (
          <span className="mt-1 flex flex-wrap gap-x-2 text-small">
            <Button
              kind="link"
              className="text-small"
              onClick={() =>
                void act(
                  "POST",
                  "/factors",
                  { aspects: [row.key] },
                  {
                    said: `${row.label} is a factor now.`,
                    undo: (after) => act("DELETE", `/factors/${after.factors.at(-1)?.key}`),
                  },
                )
              }
            >
              declare as factor
            </Button>
            {row.setting && (
              <Menu
                label={`Make ${row.label} equal`}
                trigger={
                  <button type="button" className="underline decoration-line hover:decoration-ink">
                    make equal
                  </button>
                }
                items={review.columns.map((column) => ({
                  label: `${row.values[String(column.id)] ?? "not set"}, as on ${column.label}`,
                  act: () =>
                    void act(
                      "POST",
                      "/equal",
                      { setting: row.setting, like: column.id },
                      {
                        said: `${row.label} is the same on all configurations.`,
                      },
                    ),
                }))}
              />
            )}
            <Button kind="link" className="text-small" onClick={onAccept}>
              accept with a caveat
            </Button>
          </span>
        )}
        {may &&
          row.kind === "accepted" &&
          review.differences.caveats.some((one) => one.aspect === row.key) && (
            <Button
              kind="link"
              className="text-small"
              onClick={() =>
                void act("DELETE", `/caveats/${encodeURIComponent(row.key)}`, undefined, {
                  said: "The caveat is taken back.",
                  undo: () =>
                    act("PUT", "/caveats", {
                      aspect: row.key,
                      words: review.differences.caveats.find((one) => one.aspect === row.key)?.words,
                    }),
                })
              }
            >
              take the caveat back
            </Button>
          )}
      </th>
      {review.columns.map((column) => (
        <SettingCell
          key={column.id}
          column={column}
          row={row}
          may={may && Boolean(row.setting) && !column.has_passes}
          act={act}
        />
      ))}
    </tr>
  );
}
