import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../../../api/acts";
import { useMatrix, useReview } from "../../../../api/review";
import { Button } from "../../../../design/Button";
import { Dialog } from "../../../../design/Dialog";
import { count } from "../../../../marks/words";
import { Loading } from "../../../../shell/States";
import type { CellPlace } from "../../place";
import { useHands } from "../../../../docket/hand/hands";
import { HandsOf } from "../HandsOf";
import { useStore } from "../useLedger";
import { asking, corrected, typedOf, unknownLines, type Correction, type Pasted, type Way } from "./pasted";
import { PastedTable } from "./PastedTable";
import { Ways } from "./Ways";

interface Props {
  at: CellPlace;
  text: string;
  onClose: () => void;
}

/** Lows are told beside an average also where they have no row of their own. */
const LOWS = { low_1pct: "1 % low", low_01pct: "0.1 % low" };

/** A pasted table: how its rows and columns are read and where each value goes, before anything is stored. */
export function PasteDialog({ at, text, onClose }: Props) {
  const review = useReview();
  const matrix = useMatrix();
  const store = useStore(review);
  const [hands] = useHands();
  const [corrections, setCorrections] = useState<Correction[]>([]);
  const [ways, setWays] = useState<Way[]>([]);
  const [problem, setProblem] = useState("");
  const asks = {
    text,
    at: { test: at.test, metric: at.metric, column: at.column },
    corrections,
    ways: ways.map(({ metric, method, half }) => ({ metric, method, half_width: halfOf(half) })),
  };
  const read = useQuery({
    queryKey: ["pasted", review.id, asks],
    queryFn: () => act<Pasted>("POST", `/api/reviews/${review.id}/pasted`, asks),
    gcTime: 0,
    retry: false,
    placeholderData: (before) => before,
  });
  const pasted = read.data;
  const metrics = { ...LOWS, ...Object.fromEntries(matrix.rows.map((row) => [row.metric, row.label])) };
  const units = {
    low_1pct: "fps",
    low_01pct: "fps",
    ...Object.fromEntries(matrix.rows.map((row) => [row.metric, row.unit])),
  };
  const looked = pasted?.values.flatMap((one) => (one.looked ? [one.looked] : [])) ?? [];
  const readings = looked.reduce((sum, one) => sum + one.landings.length, 0);
  const wrong = looked.filter((one) => one.error).length;
  const warned = looked.filter((one) => one.landings.some((landing) => landing.warnings.length)).length;
  const homeless = pasted?.values.filter((one) => !one.looked).length ?? 0;
  const open = pasted ? unknownLines(pasted) : 0;
  const asked = pasted ? asking(pasted, ways) : [];
  const unsaid = looked.some((one) => one.asks_method);
  const send = async () => {
    if (!pasted) return;
    try {
      await store(typedOf(pasted), hands);
      onClose();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  const waits = [
    open > 0 && `${count(open, "row or column", "rows or columns")} to be told`,
    wrong > 0 && `${count(wrong, "value")} that cannot be read`,
    unsaid && "how the figures were read",
  ].filter(Boolean);
  return (
    <Dialog open onClose={onClose} title="Where the table lands" wide>
      {read.isPending && <Loading what="Reading the table" />}
      {pasted && (
        <>
          <p className="mb-2 text-note text-quiet">
            Each row and column is read by its name; what names nothing goes on from the chosen cell. A head
            can be put right, once for all that are called the same.
          </p>
          <Ways asked={asked} ways={ways} metrics={metrics} units={units} onWays={setWays} />
          <div className="max-h-[48vh] overflow-auto">
            {pasted.blocks.map((block, index) => (
              <PastedTable
                key={index}
                pasted={pasted}
                block={index}
                metrics={metrics}
                onSays={(axis, line, says) => {
                  const label = (axis === "row" ? block.rows : block.columns)[line]?.label ?? "";
                  setCorrections((all) => corrected(all, { axis, label, block: index, at: line, says }));
                }}
              />
            ))}
          </div>
          {warned > 0 && (
            <p role="alert" className="text-note">
              <strong>Look again:</strong> {count(warned, "value seems", "values seem")} unlikely, as marked
              marked above.
            </p>
          )}
          {homeless > 0 && open === 0 && (
            <p role="alert" className="text-note">
              {count(homeless, "value has", "values have")} no place in the matrix and will be left out, as
              marked above.
            </p>
          )}
        </>
      )}
      {(problem || read.error) && (
        <p role="alert" className="mt-2 text-note text-mark">
          {problem || read.error?.message}
        </p>
      )}
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <Button
          kind="strong"
          disabled={!readings || waits.length > 0 || read.isFetching}
          onClick={() => void send()}
        >
          Store {count(readings, "reading")}
        </Button>
        <Button onClick={onClose}>Not now</Button>
        <HandsOf />
        {waits.length > 0 && (
          <span className="text-note text-mark">Nothing is stored yet: {waits.join(", ")}.</span>
        )}
      </div>
    </Dialog>
  );
}

function halfOf(text: string): number | null {
  const typed = text.trim().replace(",", ".");
  return typed === "" || Number.isNaN(Number(typed)) ? null : Number(typed);
}
