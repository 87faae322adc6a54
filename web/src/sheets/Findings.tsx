import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import type { Shapes } from "../api/client";
import { findingsQuery } from "../api/queries";
import { useReview } from "../api/review";
import { Button } from "../design/Button";
import { found, Search } from "../design/Search";
import { Seal } from "../marks/Seal";
import { useKeys } from "../shell/keys";
import { Failed, Loading } from "../shell/States";
import { columnOf } from "../api/lookup";
import { cellsAddress, Drawn } from "./findings/Drawn";

type Finding = Shapes["FindingShape"];

/** How sure a finding is, by sign and word. */
const SIGNS: Record<string, [string, string]> = {
  decided: ["✓", "decided"],
  warns: ["⚑", "with a warning"],
  undecided: ["○", "undecided"],
  open: ["·", "open"],
};

/** What the review says, ranked; the chosen finding stands drawn beside the list. */
export function Findings() {
  const review = useReview();
  const query = useQuery(findingsQuery(review.id));
  const [params, setParams] = useSearchParams();
  const [kind, setKind] = useState("");
  const [search, setSearch] = useState("");
  const navigate = useNavigate();
  const list = useRef<HTMLOListElement>(null);
  const all = query.data?.findings ?? [];
  const shown = all.filter(
    (one) => (!kind || one.kind === kind) && found(search, one.sentence, one.kind_words),
  );
  const chosen = shown.find((one) => one.key === params.get("finding")) ?? shown[0];
  const choose = (one: Finding | undefined) =>
    one &&
    setParams(
      (before) => {
        before.set("finding", one.key);
        return before;
      },
      { replace: true },
    );
  const move = (by: number) => choose(shown[(chosen ? shown.indexOf(chosen) : 0) + by]);
  const kinds = query.data?.kinds ?? [];
  useKeys({
    ArrowDown: () => move(1),
    ArrowUp: () => move(-1),
    Enter: () => chosen && void navigate(cellsAddress(review.id, chosen)),
    "0": () => setKind(""),
    ...Object.fromEntries(kinds.map((one, at) => [String(at + 1), () => setKind(one.key)])),
  });
  useEffect(() => {
    list.current?.querySelector("[aria-current=true]")?.scrollIntoView({ block: "nearest" });
  }, [chosen?.key]);
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  if (!query.data) return <Loading what="Working out what the review says" />;
  if (!all.length) {
    return (
      <main className="p-5">
        <p className="font-serif text-lead">
          Nothing can be said yet. Findings come from passes of two configurations, or from targets.
        </p>
      </main>
    );
  }
  return (
    <main className="grid gap-6 p-5 lg:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
      <div className="min-w-0">
        <div className="mb-2 flex flex-wrap items-center gap-2 text-note" role="group" aria-label="Kinds">
          <Button kind={kind ? "plain" : "strong"} aria-pressed={!kind} onClick={() => setKind("")}>
            all {all.length}
          </Button>
          {kinds.map((one) => (
            <Button
              key={one.key}
              kind={kind === one.key ? "strong" : "plain"}
              aria-pressed={kind === one.key}
              onClick={() => setKind(one.key)}
            >
              {one.words} {one.count}
            </Button>
          ))}
        </div>
        <Search value={search} onChange={setSearch} label="Search the findings" />
        {shown.length === 0 && <p className="text-quiet">No finding says this.</p>}
        <ol ref={list} className="border-t-2 border-ink" aria-label="Findings">
          {shown.map((one) => (
            <Line key={one.key} finding={one} chosen={one === chosen} onChoose={() => choose(one)} />
          ))}
        </ol>
      </div>
      {chosen && <Drawn key={chosen.key} finding={chosen} />}
    </main>
  );
}

function Line({ finding, chosen, onChoose }: { finding: Finding; chosen: boolean; onChoose: () => void }) {
  const review = useReview();
  const [sign, words] = SIGNS[finding.sure] ?? ["", ""];
  const column = columnOf(review, finding.columns.at(-1) ?? 0);
  return (
    <li>
      <button
        type="button"
        aria-current={chosen}
        onClick={onChoose}
        className={`flex w-full gap-3 border-b border-line px-2.5 py-2 text-left ${chosen ? "border-l-3 border-l-mark bg-band" : "bg-sheet hover:bg-band/50"}`}
      >
        <span aria-hidden="true" className={`w-4 ${finding.sure === "warns" ? "text-mark" : "text-quiet"}`}>
          {sign}
        </span>
        <span className="min-w-0">
          <span className="font-serif text-lead leading-snug">
            {finding.columns.length === 2 && column && (
              <>
                <Seal position={column.position} label={column.label} size={17} />{" "}
              </>
            )}
            {finding.sentence}
          </span>
          <span className="block text-small text-quiet">
            {finding.kind_words} · {words}
          </span>
        </span>
      </button>
    </li>
  );
}
