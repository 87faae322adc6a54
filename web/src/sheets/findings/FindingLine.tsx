import type { Shapes } from "../../api/client";
import { columnOf } from "../../api/lookup";
import { useMeasuredBefore } from "../../api/measuredBefore";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";
import { Button } from "../../design/Button";
import { Seal } from "../../marks/Seal";
import { unbroken } from "../../marks/words";
import type { Finding } from "./listed";
import { usePins, type Pins } from "./usePins";

/** How sure a finding is, by sign and word. */
const SIGNS: Record<string, [string, string]> = {
  decided: ["✓", "decided"],
  warns: ["⚑", "with a warning"],
  undecided: ["○", "undecided"],
  open: ["·", "open"],
};

interface Props {
  finding: Finding;
  chosen: boolean;
  onChoose: () => void;
  pins: Pins;
}

/** One finding in the list: how sure it is, its seal, its sentence, and whether it is pinned. */
export function FindingLine({ finding, chosen, onChoose, pins }: Props) {
  const review = useReview();
  const may = useMay();
  const before = useMeasuredBefore();
  const [sign, words] = SIGNS[finding.sure] ?? ["", ""];
  const column = columnOf(review, finding.columns.at(-1) ?? 0);
  const { pin } = finding;
  return (
    <li
      className={`flex border-b border-line ${chosen ? "border-l-3 border-l-mark bg-band" : "bg-sheet hover:bg-band/50"}`}
    >
      <button
        type="button"
        aria-current={chosen}
        onClick={onChoose}
        className="flex min-w-0 grow gap-3 px-2.5 py-2 text-left"
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
            {unbroken(finding.sentence)}
          </span>
          <span className="block text-small text-quiet">
            {[
              finding.kind_words,
              words,
              before(finding.cells).length > 0 && "measured before an update",
              ...finding.expected.map((one) => `expected: ${one.held}`),
              finding.drawn_by && `drawn by ${finding.drawn_by}`,
              pin?.note,
            ]
              .filter(Boolean)
              .join(" · ")}
          </span>
          {pin?.changed && <span className="block text-small text-mark">{pin.changed}</span>}
        </span>
      </button>
      {may("edit_review") ? (
        <button
          type="button"
          aria-pressed={Boolean(pin)}
          aria-label={pin ? `Unpin: ${finding.sentence}` : `Pin: ${finding.sentence}`}
          onClick={() => void pins.toggle(finding)}
          className={`shrink-0 self-start px-2.5 py-2 text-small ${pin ? "text-mark" : "text-quiet hover:text-ink print:hidden"}`}
        >
          {pin ? "◆ pinned" : "◇ pin"}
        </button>
      ) : (
        pin && <span className="shrink-0 px-2.5 py-2 text-small text-mark">◆ pinned</span>
      )}
    </li>
  );
}

/** A pin whose finding is no longer made: what it said stays readable. */
export function GonePin({ gone }: { gone: Shapes["GonePinShape"] }) {
  const may = useMay();
  const pins = usePins([]);
  return (
    <p className="border-b border-line px-2.5 py-2 text-note">
      <span className="text-mark">◆ {gone.pin.changed}:</span>{" "}
      <span className="font-serif">{gone.pin.said}</span>{" "}
      {may("edit_review") && (
        <Button kind="link" onClick={() => void pins.unpin(gone.pin.id)}>
          Unpin
        </Button>
      )}
    </p>
  );
}
