import { useState } from "react";
import { Link } from "react-router";
import { act } from "../api/acts";
import type { Shapes, SystemDocket } from "../api/client";
import { Button } from "../design/Button";
import { useAct } from "../design/useAct";

interface Props {
  docket: SystemDocket;
  hold: Shapes["Hold"];
  may: boolean;
  large: boolean;
}

/** The docket has stopped: what does not agree, and the ways on. */
export function HoldNote({ docket, hold, may, large }: Props) {
  const run = useAct();
  const [words, setWords] = useState("");
  const [seen, setSeen] = useState("");
  const input = `w-full border border-ink bg-sheet px-2 text-body ${large ? "py-2.5" : "py-1"}`;
  return (
    <div role="alert" className="mb-3 border-2 border-mark p-2.5">
      <p className="font-semibold">
        <span aria-hidden="true" className="text-mark">
          ■{" "}
        </span>
        Stopped: on {hold.title}, {hold.words}.
      </p>
      {may ? (
        <ol className="mt-2 flex flex-col gap-2.5">
          <li>
            <form
              onSubmit={(event) => {
                event.preventDefault();
                void run(
                  () =>
                    act("POST", `/api/configurations/${hold.configuration}/observations`, {
                      key: hold.key,
                      value: seen,
                    }),
                  { said: "Noted.", made: "docket_of" },
                ).then(() => setSeen(""));
              }}
            >
              <label className="block">
                Set it again, and read it off once more
                <input value={seen} onChange={(event) => setSeen(event.target.value)} className={input} />
              </label>
              <Button
                type="submit"
                className={`mt-1 ${large ? "w-full py-2.5" : ""}`}
                disabled={!seen.trim()}
              >
                Note what it is now
              </Button>
            </form>
          </li>
          <li>
            <label className="block">
              Or go on with it, and say why
              <input value={words} onChange={(event) => setWords(event.target.value)} className={input} />
            </label>
            <Button
              className={`mt-1 ${large ? "w-full py-2.5" : ""}`}
              disabled={!words.trim()}
              onClick={() =>
                void run(
                  () =>
                    act("POST", `/api/systems/${docket.id}/releases`, {
                      configuration: hold.configuration,
                      key: hold.key,
                      observed: hold.observed,
                      words,
                    }),
                  { said: "The docket goes on; the difference stays in sight.", made: "docket_of" },
                )
              }
            >
              Go on
            </Button>
          </li>
          <li>
            Or{" "}
            <Link to={`/systems/${docket.id}?configuration=${hold.configuration}`} className="underline">
              mark the configuration as one that cannot be built
            </Link>
            .
          </li>
        </ol>
      ) : (
        <ul className="mt-1 list-disc pl-4 text-quiet">
          {hold.ways.map((way) => (
            <li key={way}>{way}</li>
          ))}
        </ul>
      )}
    </div>
  );
}
