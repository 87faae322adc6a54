import { useQueryClient } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { askForPasses } from "../../api/acts";
import { keys } from "../../api/queries";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import { useNotices } from "../../design/Notices";
import { Seal } from "../../marks/Seal";
import { count } from "../../marks/words";
import type { CellPlace } from "./place";
import { useReview } from "../../api/review";

interface Props {
  at: CellPlace | "all";
  onClose: () => void;
}

/** Put passes on the docket, for one cell or any choice of tests and configurations. */
export function AskDialog({ at, onClose }: Props) {
  const review = useReview();
  const client = useQueryClient();
  const { tell } = useNotices();
  const [tests, setTests] = useState(() => (at === "all" ? review.tests.map((test) => test.id) : [at.test]));
  const [columns, setColumns] = useState(() =>
    at === "all"
      ? review.columns.filter((column) => !column.blocked).map((column) => column.id)
      : [at.column],
  );
  const [passes, setPasses] = useState(review.passes_per_test);
  const [problem, setProblem] = useState("");
  const total = tests.length * columns.length * passes;
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    try {
      const asked = await askForPasses(review.id, tests, columns, passes);
      for (const queryKey of [keys.matrix(review.id), keys.docket(review.id), keys.reviews]) {
        void client.invalidateQueries({ queryKey });
      }
      tell(`${count(asked, "pass")} on the docket.`);
      onClose();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <Dialog open onClose={onClose} title="Ask for passes">
      <form onSubmit={(event) => void submit(event)}>
        <fieldset className="mb-3">
          <legend className="mb-1 text-note font-semibold">Tests</legend>
          {review.tests.map((test) => (
            <Choice key={test.id} id={test.id} chosen={tests} onChange={setTests}>
              {test.name}, {test.detail}
            </Choice>
          ))}
        </fieldset>
        <fieldset className="mb-3">
          <legend className="mb-1 text-note font-semibold">Configurations</legend>
          {review.columns.map((column) => (
            <Choice
              key={column.id}
              id={column.id}
              chosen={columns}
              onChange={setColumns}
              disabled={Boolean(column.blocked)}
            >
              <Seal position={column.position} label={column.label} size={16} /> {column.label}, on{" "}
              {column.system}
              {column.blocked && <span className="text-mark">: cannot be built</span>}
            </Choice>
          ))}
        </fieldset>
        <Field label="Passes for each cell">
          <input
            type="number"
            min={1}
            max={20}
            value={passes}
            onChange={(event) => setPasses(Number(event.target.value))}
          />
        </Field>
        {problem && (
          <p role="alert" className="mb-3 text-note text-mark">
            {problem}
          </p>
        )}
        <div className="flex gap-3">
          <Button kind="strong" type="submit" disabled={!(total >= 1)}>
            Ask for {count(Number.isFinite(total) ? total : 0, "pass")}
          </Button>
          <Button onClick={onClose}>Not now</Button>
        </div>
      </form>
    </Dialog>
  );
}

interface ChoiceProps {
  id: number;
  chosen: number[];
  onChange: (next: number[]) => void;
  disabled?: boolean;
  children: React.ReactNode;
}

function Choice({ id, chosen, onChange, disabled, children }: ChoiceProps) {
  const on = chosen.includes(id);
  return (
    <label className="flex items-center gap-2 py-0.5">
      <input
        type="checkbox"
        checked={on}
        disabled={disabled}
        onChange={() => onChange(on ? chosen.filter((one) => one !== id) : [...chosen, id])}
      />
      <span>{children}</span>
    </label>
  );
}
