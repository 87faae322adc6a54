import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { findingsQuery } from "../api/queries";
import { useReview } from "../api/review";
import { Hint } from "../first/Hint";
import { MeasuredBefore } from "./matrix/MeasuredBefore";
import { useMay } from "../api/session";
import { Button } from "../design/Button";
import { useNotices } from "../design/Notices";
import { found, Search } from "../design/Search";
import { count } from "../marks/words";
import { useKeys } from "../shell/keys";
import { Failed, Loading } from "../shell/States";
import { cellsAddress, Drawn } from "./findings/Drawn";
import { DrawAnother } from "./findings/DrawAnother";
import { FindingLine, GonePin } from "./findings/FindingLine";
import { listed, type Finding } from "./findings/listed";
import { usePins } from "./findings/usePins";

/** What the review says, ranked; the chosen finding stands drawn beside the list. */
export function Findings() {
  const review = useReview();
  const may = useMay();
  const query = useQuery(findingsQuery(review.id));
  const [params, setParams] = useSearchParams();
  const [kind, setKind] = useState("");
  const [search, setSearch] = useState("");
  const [drawing, setDrawing] = useState(false);
  const navigate = useNavigate();
  const { warn } = useNotices();
  const list = useRef<HTMLOListElement>(null);
  const all = query.data?.findings ?? [];
  const pins = usePins(all);
  const matching = all.filter(
    (one) => (!kind || one.kind === kind) && found(search, one.sentence, one.kind_words, one.pin?.note ?? ""),
  );
  // One that a link names is shown, also where its kind is folded.
  const { shown, folded } = listed(matching, !kind && !search, params.get("finding") ?? "");
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
  const kinds = (query.data?.kinds ?? []).filter((one) => one.count > 0);
  useKeys({
    ArrowDown: () => move(1),
    ArrowUp: () => move(-1),
    Enter: () => chosen && void navigate(cellsAddress(review.id, chosen)),
    p: () => {
      if (!may("edit_review")) warn("To pin a finding, the role editor is needed.");
      else if (chosen) void pins.toggle(chosen);
    },
    "0": () => setKind(""),
    ...Object.fromEntries(kinds.map((one, at) => [String(at + 1), () => setKind(one.key)])),
  });
  useEffect(() => {
    list.current?.querySelector("[aria-current=true]")?.scrollIntoView({ block: "nearest" });
  }, [chosen?.key]);
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  if (!query.data || (query.data.computing && !all.length)) {
    return <Loading what="Working out what the review says" />;
  }
  if (!all.length) {
    return (
      <main className="p-5">
        <p className="font-serif text-lead">
          Nothing can be said yet. Findings come from passes of two configurations, or from targets.
        </p>
        {query.data.gone.map((one) => (
          <GonePin key={one.key} gone={one} />
        ))}
      </main>
    );
  }
  return (
    <main className="grid gap-6 p-5 lg:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
      <div className="min-w-0">
        <Hint name="findings" />
        <MeasuredBefore />
        <div
          className="mb-2 flex flex-wrap items-center gap-x-1.5 gap-y-1 text-note print:hidden"
          role="group"
          aria-label="Kinds"
        >
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
        <div className="flex items-center gap-4 print:hidden">
          <Search value={search} onChange={setSearch} label="Search the findings" />
          {may("edit_review") && (
            <Button kind="link" onClick={() => setDrawing(true)}>
              Draw another
            </Button>
          )}
        </div>
        <p role="status" className={query.data.computing ? "mb-1 text-note" : "sr-only"}>
          {query.data.computing && "Newer findings are being worked out; these are the ones before."}
        </p>
        {shown.length === 0 && <p className="text-quiet">No finding says this.</p>}
        <ol ref={list} className="border-t-2 border-ink" aria-label="Findings">
          {shown.map((one) => (
            <FindingLine
              key={one.key}
              finding={one}
              chosen={one === chosen}
              onChoose={() => choose(one)}
              pins={pins}
            />
          ))}
        </ol>
        {!kind && !search && query.data.gone.map((one) => <GonePin key={one.key} gone={one} />)}
        {folded.length > 0 && (
          <p className="mt-2 flex flex-wrap gap-x-4 text-note text-quiet">
            {folded.map(([key, words, more]) => (
              <Button key={key} kind="link" onClick={() => setKind(key)}>
                {count(more, "more", "more")} of {words}
              </Button>
            ))}
          </p>
        )}
      </div>
      {chosen && <Drawn key={chosen.key} finding={chosen} pins={pins} />}
      {drawing && (
        <DrawAnother
          kinds={query.data.kinds}
          about={chosen}
          onClose={() => setDrawing(false)}
          onDrawn={choose}
        />
      )}
    </main>
  );
}
