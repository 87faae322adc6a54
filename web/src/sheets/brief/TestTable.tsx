import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { act as plainAct } from "../../api/acts";
import type { Shapes } from "../../api/client";
import { reviewQuery } from "../../api/queries";
import { useReview } from "../../api/review";
import { Button } from "../../design/Button";
import { Field } from "../../design/Field";
import { useDraft } from "../../design/useDraft";
import { count } from "../../marks/words";
import { useBriefAct } from "./useBriefAct";

type Row = Shapes["TableTestShape"];

const EXAMPLE = "workload | resolution | preset\nHarbour Run | 1080p, 1440p | high\nSilt | 1440p | high, low";

/** Tests typed or pasted as a table, a line each; looked at while it is typed. */
export function TestTable({ onClose }: { onClose: () => void }) {
  const review = useReview();
  const act = useBriefAct(review);
  const [text, setText, dropText] = useDraft(`tests-${review.id}`, "");
  const [busy, setBusy] = useState(false);
  const client = useQueryClient();
  const path = `/api/reviews/${review.id}/tests/table`;
  const read = useQuery({
    queryKey: ["test-table", review.id, text],
    queryFn: () => plainAct<Shapes["TestTableShape"]>("POST", path, { text }),
    enabled: text.trim().includes("\n"),
    retry: false,
    gcTime: 0,
    placeholderData: (before) => before,
  });
  const rows = text.trim().includes("\n") ? (read.data?.tests ?? []) : [];
  const made = [...new Set(rows.filter((row) => row.new).map((row) => row.name))];
  const fresh = rows.filter((row) => !row.there && !row.problem).length;
  const wrong = rows.filter((row) => row.problem).length;
  const add = async () => {
    setBusy(true);
    const body = { text, store: true, make: made.length > 0 };
    const before = new Set(review.tests.map((test) => test.id));
    const takeOut = async () => {
      const now = await client.fetchQuery({ ...reviewQuery(review.id), staleTime: 0 });
      for (const test of now.tests.filter((one) => !before.has(one.id))) {
        await plainAct("DELETE", `/api/reviews/${review.id}/tests/${test.id}`);
      }
    };
    const saved = await act("POST", "/tests/table", body, {
      said: `${count(fresh, "test")} added.`,
      undo: takeOut,
    });
    setBusy(false);
    if (!saved) return;
    dropText();
    onClose();
  };
  return (
    <>
      <Field
        label="The table"
        hint="The first line names workload and settings, each other line is a test; several values with commas between them make a test each. Tabs, bars or wide gaps part the cells."
      >
        <textarea
          rows={6}
          autoFocus
          spellCheck={false}
          value={text}
          placeholder={EXAMPLE}
          onChange={(event) => setText(event.target.value)}
        />
      </Field>
      {read.error && (
        <p role="alert" className="mb-2 text-note text-mark">
          {read.error.message}
        </p>
      )}
      {rows.length > 0 && (
        <ul aria-label="The tests of the table" className="mb-3 max-h-52 overflow-auto text-note">
          {rows.map((row, at) => (
            <li key={at} className="border-t border-line py-0.5">
              <strong>{row.name}</strong> <span className="text-quiet">{row.detail}</span>
              <RowState row={row} />
            </li>
          ))}
        </ul>
      )}
      {made.length > 0 && (
        <p className="mb-3 text-note">
          {made.join(", ")} {made.length === 1 ? "is" : "are"} not in the catalogue and will be made there,
          read by hand: a game with average and lows, unless a column named kind says suite, task, soak or
          idle. What they report themselves can be added under Workloads.
        </p>
      )}
      <div className="flex items-center gap-3">
        <Button
          kind="strong"
          disabled={!fresh || wrong > 0 || busy || read.isFetching}
          onClick={() => void add()}
        >
          Add {count(fresh, "test")}
        </Button>
        <Button onClick={onClose}>Not now</Button>
        {wrong > 0 && (
          <span className="text-note text-mark">{count(wrong, "line")} must be put right first.</span>
        )}
      </div>
    </>
  );
}

function RowState({ row }: { row: Row }) {
  if (row.problem) return <span className="block text-mark">⚑ {row.problem}</span>;
  if (row.there) return <span className="text-quiet"> · in the review already</span>;
  return row.new ? <span className="text-quiet"> · new workload, {row.kind}</span> : null;
}
