import assert from "node:assert/strict";
import { test } from "node:test";
import { changedFields, fieldsOf } from "../src/design/useFormDraft";

const field = (name: string, type: string, value: string, checked = false) => ({
  name,
  type,
  value,
  checked,
});

test("a form keeps its fields by name and place, and no secret", () => {
  const kept = fieldsOf([
    field("label", "text", "Game mode"),
    field("shown", "checkbox", "average_fps", true),
    field("shown", "checkbox", "low_1pct"),
    field("password", "password", "secret"),
    field("", "text", "nameless"),
  ]);
  assert.deepEqual(kept, [
    ["label", 0, "Game mode"],
    ["shown", 0, true],
    ["shown", 1, false],
  ]);
});

test("only what differs from what the form began with is kept, so that others' changes stay", () => {
  const began = fieldsOf([field("name", "text", "Heron"), field("note", "text", "")]);
  const now = fieldsOf([field("name", "text", "Heron"), field("note", "text", "the fan hums")]);
  assert.deepEqual(changedFields(began, now), [["note", 0, "the fan hums"]]);
  assert.deepEqual(changedFields(began, began), []);
});

test("a field that was not there at first is kept", () => {
  assert.deepEqual(changedFields([], [["choices", 0, "off, on"]]), [["choices", 0, "off, on"]]);
});
