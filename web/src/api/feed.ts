import { useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { BenchGlance, LiveShape, MatrixShape, SystemDocket } from "./client";
import { keys } from "./queries";
import { isKind, refresh } from "./stale";

interface Change {
  kind: string;
  review?: number;
  test?: number;
  column?: number;
  entry?: number;
  progress?: Record<string, unknown>;
  attempts?: number;
  id?: string;
}

/** Follows the server's changes; returns whether the line is up. The browser resumes by Last-Event-ID on its own. */
export function useFeed(): boolean {
  const client = useQueryClient();
  const [live, setLive] = useState(true);
  useEffect(() => {
    const source = new EventSource("/api/feed");
    source.addEventListener("ready", () => setLive(true));
    source.addEventListener("change", (event) => {
      apply(client, JSON.parse((event as MessageEvent<string>).data) as Change);
    });
    source.onerror = () => setLive(false);
    return () => source.close();
  }, [client]);
  return live;
}

function apply(client: QueryClient, change: Change): void {
  const review = change.review;
  if (change.kind === "progress" && review !== undefined) {
    client.setQueriesData<MatrixShape>({ queryKey: keys.matrix(review) }, (matrix) =>
      patched(matrix, change),
    );
    client.setQueriesData<SystemDocket>({ queryKey: keys.systemDockets }, (one) => one && told(one, change));
    client.setQueriesData<SystemDocket[]>({ queryKey: ["docket"] }, (all) =>
      all?.map((one) => told(one, change)),
    );
    client.setQueryData<BenchGlance[]>(["benches"], (all) => all?.map((one) => glanced(one, change)));
    client.setQueryData<LiveShape>(["live", change.entry], (one) => one && watched(one, change));
    if (change.attempts !== undefined)
      void client.invalidateQueries({ queryKey: ["search", { entry: change.entry }] });
    return;
  }
  if (isKind(change.kind)) void refresh(client, change.kind, review);
}

/** The matrix with the progress of one running pass. */
function patched(matrix: MatrixShape | undefined, change: Change): MatrixShape | undefined {
  if (!matrix) return matrix;
  return {
    ...matrix,
    progress: matrix.progress.map((row) => {
      const cell = row.cells[String(change.column)];
      if (row.test !== change.test || !cell) return row;
      const running = cell.running.map((run) =>
        run.entry === change.entry
          ? { ...run, progress: change.progress ?? {}, told_at: new Date().toISOString() }
          : run,
      );
      return { ...row, cells: { ...row.cells, [String(change.column)]: { ...cell, running } } };
    }),
  };
}

/** A docket with the progress of one running pass. */
function told(docket: SystemDocket, change: Change): SystemDocket {
  return {
    ...docket,
    running: docket.running.map((group) => ({
      ...group,
      entries: group.entries.map((entry) =>
        entry.id === change.entry
          ? { ...entry, progress: change.progress ?? {}, told_at: new Date().toISOString() }
          : entry,
      ),
    })),
  };
}

/** A system at a glance with the progress of its running pass. */
function glanced(bench: BenchGlance, change: Change): BenchGlance {
  return {
    ...bench,
    running: bench.running.map((one) =>
      one.entry === change.entry
        ? { ...one, progress: change.progress ?? {}, told_at: new Date().toISOString() }
        : one,
    ),
  };
}

const WATCHED_POINTS = 1500;

/** What is watched of a running pass, with one more report. */
function watched(live: LiveShape, change: Change): LiveShape {
  const progress = change.progress ?? {};
  const elapsed_s = Number(progress.elapsed_s ?? 0);
  const readings = (progress.readings ?? {}) as Record<string, number | null>;
  return {
    ...live,
    progress,
    told_at: new Date().toISOString(),
    points: [...live.points.slice(-WATCHED_POINTS), { elapsed_s, readings }],
  };
}
