import { useState } from "react";
import { Problem } from "../api/client";

/** What two people have made of one field. */
export interface Conflict<T> {
  field: keyof T;
  mine: unknown;
  theirs: unknown;
}

export interface Versioned<T> {
  busy: boolean;
  problem: string;
  conflicts: Conflict<T>[];
  save: (changes: Partial<T>) => Promise<T | null>;
  /** Save again, keeping mine in the named fields and theirs in the other ones in conflict. */
  settle: (mine: (keyof T)[]) => Promise<T | null>;
}

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** The changes that change anything. */
export function changed<T extends object>(began: T, changes: Partial<T>): Partial<T> {
  return Object.fromEntries(
    Object.entries(changes).filter(([field, value]) => !same(began[field as keyof T], value)),
  ) as Partial<T>;
}

/**
 * Saving edits of an object that carries a version or an entity tag. When somebody else was faster, fields that only one of us has
 * changed are merged; a field that both have changed is put to the person who saves last.
 */
export function useVersioned<T extends object, V>(
  began: T,
  versionOf: (object: T) => V,
  store: (version: V, changes: Partial<T>) => Promise<T>,
): Versioned<T> {
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState("");
  const [conflicts, setConflicts] = useState<Conflict<T>[]>([]);
  const [held, setHeld] = useState<{ changes: Partial<T>; theirs: T } | null>(null);

  const attempt = async (base: T, version: V, changes: Partial<T>, left = 3): Promise<T | null> => {
    try {
      const saved = await store(version, changes);
      setConflicts([]);
      setHeld(null);
      return saved;
    } catch (error) {
      const theirs =
        error instanceof Problem && error.status === 412 ? (error.members.current as T) : undefined;
      if (theirs) {
        const both = (Object.keys(changes) as (keyof T)[]).filter(
          (field) => !same(base[field], theirs[field]) && !same(changes[field], theirs[field]),
        );
        if (!both.length && left) return attempt(theirs, versionOf(theirs), changes, left - 1);
        setHeld({ changes, theirs });
        setConflicts(both.map((field) => ({ field, mine: changes[field], theirs: theirs[field] })));
      }
      setProblem((error as Error).message);
      return null;
    }
  };
  const run = async (work: () => Promise<T | null>) => {
    setBusy(true);
    setProblem("");
    try {
      return await work();
    } finally {
      setBusy(false);
    }
  };
  return {
    busy,
    problem,
    conflicts,
    save: (changes) => run(() => attempt(began, versionOf(began), changed(began, changes))),
    settle: (mine) =>
      run(async () => {
        if (!held) return null;
        const dropped = conflicts.map((one) => one.field).filter((field) => !mine.includes(field));
        const kept = Object.fromEntries(
          Object.entries(held.changes).filter(([field]) => !dropped.includes(field as keyof T)),
        ) as Partial<T>;
        return attempt(held.theirs, versionOf(held.theirs), kept);
      }),
  };
}
