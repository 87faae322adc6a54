import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { act } from "../../../api/acts";
import type { ReviewShape, Shapes } from "../../../api/client";
import { keys } from "../../../api/queries";
import { useNotices } from "../../../design/Notices";
import type { Hands } from "../../../docket/hand/draft";
import { useHands } from "../../../docket/hand/hands";
import { count } from "../../../marks/words";
import { sameCell, type CellPlace } from "../place";

export type Looked = Shapes["LookedShape"];
export type Move = "down" | "right" | "left" | "stay";

export interface Method {
  method: string;
  half_width: number | null;
  /** For all rows of the review that show this metric and do not say otherwise. */
  everywhere?: boolean;
}

/** What is typed for a cell; the server reads it. */
export interface TypedCell extends Partial<Method> {
  test: number;
  column: number;
  metric: string;
  text: string;
  /** The run of a pasted table that it belongs to. */
  run?: number | null;
}

export interface Ledger {
  on: boolean;
  turn: (on: boolean) => void;
  at: CellPlace | null;
  text: string;
  looked: Looked | null;
  problem: string;
  /** Plausibility warnings were seen; the next Enter stores. */
  warned: boolean;
  begin: (cell: CellPlace, text: string) => void;
  type: (text: string) => void;
  leave: () => void;
  commit: (move: Move) => void;
  remember: (method: Method) => Promise<void>;
  isAt: (cell: CellPlace) => boolean;
}

const LOOK_MS = 150;

export function look(review: number, cells: TypedCell[]): Promise<Looked[]> {
  return act<Looked[]>("POST", `/api/reviews/${review}/typed`, { cells });
}

/** Store what was typed; tells of it with a way back. */
export function useStore(review: ReviewShape) {
  const client = useQueryClient();
  const { tell, warn } = useNotices();
  return useCallback(
    async (cells: TypedCell[], hands?: Hands) => {
      const batch = crypto.randomUUID();
      const path = `/api/reviews/${review.id}/typed/${batch}`;
      const stored = await act<Looked[]>("PUT", path, {
        cells,
        ran_by: hands?.ranBy ?? "",
        helped_by: hands?.helpedBy ?? "",
      });
      const refresh = () => {
        for (const first of [keys.matrix(review.id), keys.cells(review.id), keys.reviews])
          void client.invalidateQueries({ queryKey: first });
      };
      refresh();
      const landed = stored.flatMap((one) => one.landings);
      const made = landed.filter((one) => !one.missing).length;
      tell(
        made === landed.length
          ? `${count(made, "reading")} stored.`
          : `${count(made, "reading")} and ${count(landed.length - made, "reason")} stored.`,
        () => {
          void act("DELETE", path)
            .then(refresh)
            .catch((error: Error) => warn(error.message));
        },
      );
    },
    [client, review.id, tell, warn],
  );
}

/** Typing straight into the matrix: one cell at a time, looked at by the server while it is typed. */
export function useLedger(review: ReviewShape, onMove: (from: CellPlace, move: Move) => void): Ledger {
  const client = useQueryClient();
  const store = useStore(review);
  const [hands] = useHands();
  const [on, setOn] = useState(false);
  const [at, setAt] = useState<CellPlace | null>(null);
  const [text, setText] = useState("");
  const [looked, setLooked] = useState<Looked | null>(null);
  const [problem, setProblem] = useState("");
  const [warned, setWarned] = useState(false);
  const busy = useRef(false);
  const leave = useCallback(() => {
    setAt(null);
    setText("");
    setLooked(null);
    setProblem("");
    setWarned(false);
  }, []);
  useEffect(() => {
    if (!at || !text.trim()) return;
    let current = true;
    const timer = window.setTimeout(() => {
      look(review.id, [{ test: at.test, column: at.column, metric: at.metric, text }])
        .then(([one]) => current && setLooked(one ?? null))
        .catch((error: Error) => current && setProblem(error.message));
    }, LOOK_MS);
    return () => {
      current = false;
      window.clearTimeout(timer);
    };
  }, [at, text, review.id]);
  const commit = async (move: Move) => {
    if (!at || busy.current) return;
    if (!text.trim()) {
      onMove(at, move);
      leave();
      return;
    }
    busy.current = true;
    try {
      const cell = { test: at.test, column: at.column, metric: at.metric, text };
      const [one] = await look(review.id, [cell]);
      setLooked(one ?? null);
      if (!one || one.error || one.asks_method) return;
      if (!warned && one.landings.some((landing) => landing.warnings.length > 0)) {
        setWarned(true);
        return;
      }
      await store([cell], hands);
      onMove(at, move);
      leave();
    } catch (error) {
      setProblem((error as Error).message);
    } finally {
      busy.current = false;
    }
  };
  return {
    on,
    turn: (next) => {
      setOn(next);
      if (!next) leave();
    },
    at,
    text,
    looked: at && text.trim() ? looked : null,
    problem,
    warned,
    begin: (cell, first) => {
      leave();
      setAt(cell);
      setText(first);
    },
    type: (next) => {
      setText(next);
      setProblem("");
      setWarned(false);
    },
    leave,
    commit: (move) => void commit(move),
    remember: async (method) => {
      if (!at) return;
      try {
        await act("PUT", `/api/reviews/${review.id}/tests/${at.test}/readings/${at.metric}`, method);
        void client.invalidateQueries({ queryKey: keys.matrix(review.id) });
        if (text.trim()) {
          const [one] = await look(review.id, [
            { test: at.test, column: at.column, metric: at.metric, text },
          ]);
          setLooked(one ?? null);
        }
      } catch (error) {
        setProblem((error as Error).message);
      }
    },
    isAt: (cell) => at !== null && sameCell(at, cell),
  };
}
