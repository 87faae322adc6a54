import { useState, type FormEvent } from "react";
import { act } from "../../api/acts";
import type { CatalogueShape, PartShape } from "../../api/client";
import { Button } from "../../design/Button";
import { useAct } from "../../design/useAct";
import { fixed } from "../../marks/words";

const INPUT = "w-full border border-ink bg-sheet px-2 py-0.5 text-body";

interface Props {
  part: PartShape;
  catalogue: CatalogueShape;
  may: boolean;
}

/** What a part cost when, with its basis; a foreign price keeps the rate of its day. */
export function Prices({ part, catalogue, may }: Props) {
  const [adding, setAdding] = useState(false);
  const [problem, setProblem] = useState("");
  const run = useAct();
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const fields = Object.fromEntries(
      [...new FormData(event.currentTarget)].filter(([, value]) => value !== ""),
    );
    try {
      await act("POST", `/api/parts/${part.id}/prices`, fields);
      setAdding(false);
      setProblem("");
      void run(() => Promise.resolve(), { made: "shelf" });
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <section aria-label="Prices">
      <h3 className="text-note font-semibold">Prices</h3>
      {part.prices.length === 0 && <p className="text-note text-quiet">No price is known.</p>}
      <table className="w-full border-collapse text-note">
        <tbody>
          {part.prices.map((price) => (
            <tr key={price.id} className="border-t border-line">
              <td className="py-0.5 pr-3">{price.on}</td>
              <td className="py-0.5 pr-3 text-right whitespace-nowrap">
                {fixed(price.amount, 2)} {price.currency}
              </td>
              <td className="py-0.5 pr-3">{price.basis}</td>
              <td className="py-0.5 text-quiet">
                {price.currency !== "EUR" && `${fixed(price.euro, 2)} EUR at ${price.euro_rate} `}
                {price.note}
              </td>
              <td className="py-0.5 text-right">
                {may && (
                  <Button
                    kind="bare"
                    aria-label={`Remove the price of ${price.on}`}
                    onClick={() =>
                      void run(() => act("DELETE", `/api/prices/${price.id}`), {
                        said: "The price is removed; the history keeps it.",
                        undo: () =>
                          act("POST", `/api/parts/${part.id}/prices`, {
                            amount: price.amount,
                            currency: price.currency,
                            on: price.on,
                            basis: price.basis,
                            euro_rate: price.euro_rate,
                            note: price.note,
                          }),
                        made: "shelf",
                      })
                    }
                  >
                    ×
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {may && !adding && (
        <Button kind="link" onClick={() => setAdding(true)}>
          Add a price
        </Button>
      )}
      {adding && (
        <form
          onSubmit={(event) => void submit(event)}
          className="mt-2 grid grid-cols-3 gap-2 text-note"
          aria-label="A price"
        >
          <label>
            Amount
            <input name="amount" required inputMode="decimal" className={INPUT} />
          </label>
          <label>
            Currency
            <input name="currency" required defaultValue="EUR" maxLength={3} className={INPUT} />
          </label>
          <label>
            Basis
            <select name="basis" defaultValue="street" className={INPUT}>
              {catalogue.price_bases.map((basis) => (
                <option key={basis}>{basis}</option>
              ))}
            </select>
          </label>
          <label>
            Day
            <input
              name="on"
              type="date"
              required
              defaultValue={new Date().toISOString().slice(0, 10)}
              className={INPUT}
            />
          </label>
          <label>
            EUR for one, unless it is in EUR
            <input name="euro_rate" inputMode="decimal" className={INPUT} />
          </label>
          <label>
            Note
            <input name="note" maxLength={200} className={INPUT} />
          </label>
          {problem && (
            <p role="alert" className="col-span-3 text-mark">
              {problem}
            </p>
          )}
          <div className="col-span-3 flex gap-3">
            <Button kind="strong" type="submit">
              Add
            </Button>
            <Button onClick={() => setAdding(false)}>Not now</Button>
          </div>
        </form>
      )}
    </section>
  );
}
