import assert from "node:assert/strict";
import { test } from "node:test";
import { Installation } from "../src/places/Installation";
import { markup, textOf } from "./fixtures";

const BACKUP = {
  id: 1,
  at: "2026-11-20T08:00:00Z",
  folder: "/kept",
  name: "nomothet-a",
  size: 33_000_000,
  took_s: 2.04,
  encrypted: true,
  problem: "",
  checked_at: null,
  found: "",
};
const WELL = { part: "disk", state: "well", words: [], figures: { free_bytes: 7.5e10, total_bytes: 2.5e11 } };

function said(changes: object): string {
  const answer = {
    version: "1.2",
    status: "well",
    parts: [WELL],
    backup_every_h: 24,
    backups_kept: 14,
    backups: [],
    ...changes,
  };
  return textOf(markup(<Installation />, { may: ["look_after"], answers: [[["installation"], answer]] }));
}

function contains(text: string, ...words: string[]): void {
  for (const one of words) assert.ok(text.includes(one), `${one} in ${text}`);
}

test("a part that is well says what there is, one that is not says what is wrong", () => {
  contains(said({}), "75.0 GB of 250 GB free", "version 1.2");
  const worker = { part: "worker", state: "unwell", words: ["The worker is silent."], figures: {} };
  contains(said({ parts: [worker] }), "unwell", "The worker is silent.");
});

test("without a backup the command is told, with a schedule how often", () => {
  contains(said({}), "None yet.", "nomothet-server backup", "every 24 hours, the last 14 are kept");
  contains(said({ backup_every_h: 0 }), "no schedule is set");
});

test("each backup says whether it was checked and what was found", () => {
  contains(said({ backups: [BACKUP] }), "/kept/nomothet-a", "33.0 MB in 2.0 s, encrypted, not checked");
  const checked = { ...BACKUP, encrypted: false, checked_at: "2026-11-21T08:00:00Z" };
  contains(said({ backups: [checked] }), "not encrypted", "nothing wrong");
  contains(said({ backups: [{ ...checked, found: "a capture" }] }), "faults were found: a capture");
  contains(said({ backups: [{ ...BACKUP, problem: "No room." }] }), "failed", "No room.");
});
