import { useQuery } from "@tanstack/react-query";
import type { Shapes, TestShape } from "../api/client";
import { seeToItQuery } from "../api/standings";
import { Field } from "../design/Field";
import { WAITS } from "./waits";

interface Props {
  one?: Shapes["FollowUpShape"];
  tests: TestShape[];
}

/** What a follow-up says, as fields of a form. */
export function FollowUpFields({ one, tests }: Props) {
  const people = useQuery(seeToItQuery).data ?? [];
  return (
    <>
      <Field label="What is to be done">
        <input name="what" required maxLength={300} defaultValue={one?.what} />
      </Field>
      <Field label="Why">
        <textarea name="why" rows={2} maxLength={600} defaultValue={one?.why} />
      </Field>
      <div className="grid grid-cols-2 gap-3">
        <Field label="Waits for">
          <select name="waits_for" defaultValue={one?.waits_for ?? "day"}>
            {Object.entries(WAITS).map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </select>
        </Field>
        <Field label="Which, or who" hint="A card, a driver's number, somebody's name.">
          <input name="waits_words" maxLength={200} defaultValue={one?.waits_words} />
        </Field>
        <Field label="On the day">
          <input name="due" type="date" defaultValue={one?.due ?? ""} />
        </Field>
        <Field label="Who sees to it">
          <select name="person" defaultValue={one?.person ?? ""}>
            <option value="">nobody yet</option>
            {people.map((person) => (
              <option key={person.id} value={person.id}>
                {person.display_name}
              </option>
            ))}
          </select>
        </Field>
      </div>
      {tests.length > 0 && (
        <fieldset className="mb-3 text-note">
          <legend className="font-semibold">The tests that it wants</legend>
          <p className="text-quiet">None chosen: all of the review.</p>
          {tests.map((test) => (
            <label key={test.id} className="flex items-center gap-1.5">
              <input
                type="checkbox"
                name="tests"
                value={test.id}
                defaultChecked={one?.tests.includes(test.id)}
              />
              {test.name}, {test.detail}
            </label>
          ))}
        </fieldset>
      )}
    </>
  );
}

/** The fields as the server takes them. */
export function saidOf(form: FormData) {
  return {
    what: String(form.get("what")),
    why: String(form.get("why") ?? ""),
    waits_for: String(form.get("waits_for")),
    waits_words: String(form.get("waits_words") ?? ""),
    due: String(form.get("due") ?? "") || null,
    person: form.get("person") ? Number(form.get("person")) : null,
    tests: form.getAll("tests").map(Number),
  };
}
