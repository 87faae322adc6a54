import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { act } from "../../../api/acts";
import { api, body, type Shapes } from "../../../api/client";
import { setsQuery } from "../../../api/standings";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { Field } from "../../../design/Field";
import { useAct } from "../../../design/useAct";

interface Props {
  /** What is kept: one test with a metric, or all tests of a review. */
  what: { test: number; metric: string } | { review: number };
  words: string;
  onClose: () => void;
}

/** Puts tests into a set that is there or a new one. */
export function KeepInSet({ what, words, onClose }: Props) {
  const run = useAct();
  const navigate = useNavigate();
  const sets = (useQuery(setsQuery).data ?? []).filter((one) => !one.archived);
  const [into, setInto] = useState("");
  const keep = async (name: string) => {
    const saved = await run(
      async (): Promise<Shapes["SetStanding"]> => {
        if (!into) {
          const told = "review" in what ? { review: what.review } : { items: [what] };
          return act("POST", "/api/test-sets", { name, ...told });
        }
        const path = { test_set: Number(into) };
        const held = body(await api.GET("/api/test-sets/{test_set}", { params: { path } }));
        const items = [...held.items, ...("review" in what ? [] : [what])];
        return act("PATCH", `/api/test-sets/${into}`, { items }, `v${held.edition}`);
      },
      { said: "Kept in the set.", made: "standings" },
    );
    if (saved) void navigate(`/standings?set=${saved.id}`);
  };
  return (
    <Dialog open onClose={onClose} title="Keep in a set">
      <p className="mb-3 text-note">{words}</p>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void keep(String(new FormData(event.currentTarget).get("name") ?? ""));
        }}
      >
        {!("review" in what) && sets.length > 0 && (
          <Field label="In which set">
            <select value={into} onChange={(event) => setInto(event.target.value)}>
              <option value="">a new one</option>
              {sets.map((one) => (
                <option key={one.id} value={one.id}>
                  {one.name}
                </option>
              ))}
            </select>
          </Field>
        )}
        {!into && (
          <Field label="Name of the new set">
            <input name="name" required maxLength={80} />
          </Field>
        )}
        <div className="flex gap-3">
          <Button kind="strong" type="submit">
            Keep it
          </Button>
          <Button onClick={onClose}>Not now</Button>
        </div>
      </form>
    </Dialog>
  );
}
