import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { act } from "../api/acts";
import { Problem, type HandRun } from "../api/client";
import { handQuery } from "../api/queries";
import { useMay } from "../api/session";
import { Button } from "../design/Button";
import { useAct } from "../design/useAct";
import { useDraft } from "../design/useDraft";
import { BLANK, endingOf, lacksMethod } from "../docket/hand/draft";
import { HandClock } from "../docket/hand/HandClock";
import { HandEnding } from "../docket/hand/HandEnding";
import { HandFields } from "../docket/hand/HandFields";
import { HandSteps } from "../docket/hand/HandSteps";
import { Seal } from "../marks/Seal";
import { useHands } from "../docket/hand/hands";
import { MarkKeys } from "../sheets/running/MarkKeys";
import { Failed, Loading } from "../shell/States";

/** One owed pass for whoever runs it by hand: what to do, a clock, fields for what is read, how it ended, the next. */
export function HandPage() {
  const entry = Number(useParams().entry);
  const sheet = useQuery(handQuery(entry));
  if (sheet.isPending) return <Loading />;
  if (sheet.isError) return <Failed error={sheet.error} again={() => void sheet.refetch()} />;
  const data = sheet.data;
  return (
    <main className="mx-auto w-full max-w-[680px] p-4 text-body">
      <Head run={data} />
      {data.state === "owed" && <Owed run={data} />}
      {data.state === "running" && <Running key={entry} run={data} readAt={sheet.dataUpdatedAt} />}
      {(data.state === "done" || data.state === "withdrawn") && <Over run={data} />}
    </main>
  );
}

function Head({ run }: { run: HandRun }) {
  return (
    <>
      <h1 className="font-serif text-title font-semibold">
        {run.test_name} <span className="text-lead font-normal text-quiet">{run.detail}</span>
      </h1>
      <p className="mb-3 flex flex-wrap items-center gap-x-3 gap-y-1 text-note">
        <span className="flex items-center gap-1.5">
          <Seal position={run.position} label={run.label} baseline={run.is_baseline} size={18} />
          {run.configuration}, pass {run.number}
        </span>
        <Link className="underline" to={`/systems/${run.system}/docket`}>
          docket of {run.system_name}
        </Link>
        <Link className="underline" to={`/reviews/${run.review}/matrix?lens=progress`}>
          {run.question}
        </Link>
      </p>
      {!run.present && run.state !== "done" && (
        <p role="alert" className="mb-3 border-2 border-mark p-2.5 text-note">
          <strong>{run.system_name} is not known to be in this configuration.</strong> Its{" "}
          <Link className="underline" to={`/systems/${run.system}/docket`}>
            docket
          </Link>{" "}
          leads through the change.
        </p>
      )}
    </>
  );
}

function Owed({ run }: { run: HandRun }) {
  const may = useMay();
  const begin = useBegin();
  if (run.search) {
    return (
      <p>
        A load search is run on its ladder:{" "}
        <Link className="underline" to={`/reviews/${run.review}/matrix?lens=progress`}>
          open its cell in the matrix
        </Link>
        .
      </p>
    );
  }
  return (
    <>
      <HandSteps run={run} readOnly />
      {may("record") ? (
        <Button kind="strong" className="mt-3 w-full py-3 text-lead" onClick={() => begin(run.entry)}>
          Begin this pass
        </Button>
      ) : (
        <p className="mt-3 text-note text-quiet">Testers run passes by hand.</p>
      )}
    </>
  );
}

function Over({ run }: { run: HandRun }) {
  const begin = useBegin();
  return (
    <>
      <p className="mb-3 font-serif text-lead">
        {run.state === "done" ? `Pass ${run.number} is stored.` : "This pass was taken off the docket."}
      </p>
      {run.next_entry !== null ? (
        <Button
          kind="strong"
          autoFocus
          className="w-full py-3 text-lead"
          onClick={() => run.next_entry !== null && begin(run.next_entry)}
        >
          Begin the next one, {run.left} left
        </Button>
      ) : (
        <p>Nothing more is owed on {run.system_name}.</p>
      )}
    </>
  );
}

/** Begins a pass and leads to it. */
function useBegin(): (entry: number) => void {
  const run = useAct();
  const navigate = useNavigate();
  return (entry) =>
    void run(() => act("POST", `/api/docket/${entry}/hand`), { made: "docket" }).then(
      (begun) => begun !== undefined && navigate(`/hand/${entry}`),
    );
}

function Running({ run: sheet, readAt }: { run: HandRun; readAt: number }) {
  const may = useMay();
  const run = useAct();
  const navigate = useNavigate();
  const begin = useBegin();
  const [draft, setDraft, dropDraft] = useDraft(`hand-${sheet.entry}`, BLANK);
  const [hands, setHands] = useHands();
  const [wrong, setWrong] = useState<{ metric: string; words: string } | null>(null);
  const [problem, setProblem] = useState("");
  const readOnly = !sheet.mine || !may("record");
  if (readOnly) {
    return (
      <>
        <p className="mb-2 text-note">{sheet.by_hand || "A bench"} runs this pass just now.</p>
        <HandSteps run={sheet} readOnly />
        <HandClock run={sheet} readAt={readAt} readOnly />
      </>
    );
  }
  const store = async (next: boolean) => {
    setProblem("");
    const lacking = lacksMethod(sheet, draft);
    if (lacking) {
      setWrong({
        metric: lacking,
        words: "Say how this figure was read; it is asked once for this row.",
      });
      return;
    }
    setWrong(null);
    try {
      await act("POST", `/api/docket/${sheet.entry}/hand/end`, endingOf(sheet, draft, hands));
    } catch (error) {
      const told = error instanceof Problem ? error.members.metric : undefined;
      if (typeof told === "string") setWrong({ metric: told, words: (error as Error).message });
      else setProblem((error as Error).message);
      return;
    }
    dropDraft();
    await run(() => Promise.resolve(), { said: `Pass ${sheet.number} is stored.`, made: "pass" });
    if (next && sheet.next_entry !== null) begin(sheet.next_entry);
  };
  const giveUp = () =>
    void run(() => act("DELETE", `/api/docket/${sheet.entry}/hand`), {
      said: "The pass is owed as before.",
      made: "docket",
    }).then(() => {
      dropDraft();
      void navigate(`/systems/${sheet.system}/docket`);
    });
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void store(sheet.next_entry !== null);
      }}
    >
      <HandSteps run={sheet} readOnly={false} />
      <HandClock run={sheet} readAt={readAt} readOnly={false} />
      <HandFields run={sheet} draft={draft} onChange={setDraft} wrong={wrong} />
      <HandEnding run={sheet} draft={draft} onChange={setDraft} hands={hands} onHands={setHands} />
      <details className="mt-2">
        <summary className="text-note text-quiet">Parts of the run and impressions</summary>
        <MarkKeys entry={sheet.entry} large />
      </details>
      {problem && (
        <p role="alert" className="mt-3 text-note text-mark">
          {problem}
        </p>
      )}
      <div className="mt-4 flex flex-wrap gap-3">
        <Button kind="strong" type="submit" className="flex-1 py-3 text-lead">
          {sheet.next_entry !== null ? `Store, and on to the next (${sheet.left} left)` : "Store this pass"}
        </Button>
        {sheet.next_entry !== null && (
          <Button className="py-3" onClick={() => void store(false)}>
            Store only
          </Button>
        )}
        <Button className="py-3" onClick={giveUp}>
          Give it up
        </Button>
      </div>
    </form>
  );
}
