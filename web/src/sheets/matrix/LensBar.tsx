import { Link } from "react-router";
import { Button } from "../../design/Button";
import { count } from "../../marks/words";
import { EvidenceMenu } from "./evidence/EvidenceMenu";
import type { LensObject } from "./lenses/lens";
import { LENSES } from "./lenses/registry";
import { useMatrix } from "../../api/review";
import { TabList } from "../../design/Tabs";

interface Props {
  lens: LensObject;
  onAsk?: () => void;
  typing: boolean;
  onTyping?: (on: boolean) => void;
  onBring?: () => void;
}

const TABS = LENSES.map((one, at) => ({
  key: one.key,
  name: (
    <>
      <span className="mr-1.5 text-small text-quiet group-data-[state=active]:text-on-bar-quiet">
        {at + 1}
      </span>
      {one.name}
    </>
  ),
}));

/** The lenses by number, what the present one shows, and what the review still owes. */
export function LensBar({ lens, onAsk, typing, onTyping, onBring }: Props) {
  const matrix = useMatrix();
  const totals = matrix.totals;
  const state = [
    totals.owed && `${count(totals.owed, "pass")} owed`,
    totals.running && `${totals.running} running`,
    totals.first && count(totals.first, "first run"),
    totals.flagged && count(totals.flagged, "flag"),
    totals.failed && `${totals.failed} failed`,
    totals.set_aside && `${totals.set_aside} set aside`,
  ].filter(Boolean);
  return (
    <div className="mb-2 flex flex-wrap items-center gap-x-5 gap-y-2">
      <TabList label="Lens" look="boxed" tabs={TABS} />
      <lens.Legend />
      <Link to={`/help/help/lenses#${lens.key}`} className="text-note text-quiet underline print:hidden">
        about {lens.name}
      </Link>
      <span className="hidden font-semibold print:inline">{lens.name}</span>
      <div className="ml-auto flex flex-wrap items-center gap-x-4 gap-y-2 text-note text-quiet">
        <span>{state.length ? state.join(" · ") : "nothing owed"}</span>
        <div className="contents print:hidden">
          <EvidenceMenu />
          {onBring && <Button onClick={onBring}>Bring in files</Button>}
          {onTyping && (
            <Button
              aria-pressed={typing}
              kind={typing ? "strong" : "plain"}
              onClick={() => onTyping(!typing)}
            >
              {typing ? "Done typing" : "Type in"}
            </Button>
          )}
          {onAsk && <Button onClick={onAsk}>Ask for passes</Button>}
        </div>
      </div>
    </div>
  );
}
