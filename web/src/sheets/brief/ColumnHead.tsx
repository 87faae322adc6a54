import { useState } from "react";
import { Link } from "react-router";
import { act as plainAct } from "../../api/acts";
import type { ColumnShape } from "../../api/client";
import { Menu } from "../../design/Menu";
import { useAct } from "../../design/useAct";
import { Seal } from "../../marks/Seal";
import type { BriefAct } from "./useBriefAct";
import { useReview } from "../../api/review";
import { useMay } from "../../api/session";

interface Props {
  column: ColumnShape;
  act: BriefAct;
}

/** The head of a configuration's column: its seal, its name, and what can be done with it. */
export function ColumnHead({ column, act }: Props) {
  const may = useMay()("edit_review");
  const review = useReview();
  const run = useAct();
  const [renaming, setRenaming] = useState(false);
  const order = review.columns.map((one) => one.id);
  const move = (by: number) => {
    const next = order.filter((id) => id !== column.id);
    next.splice(column.position + by, 0, column.id);
    return act(
      "PUT",
      "/columns",
      { order: next },
      {
        said: `${column.label} is moved.`,
        undo: () => act("PUT", "/columns", { order }),
      },
    );
  };
  const nextStep = 1 + Math.max(-1, ...review.columns.map((one) => one.step ?? -1));
  const edit = (changes: object) => void act("PATCH", `/columns/${column.id}`, changes, { tag: column.tag });
  const rename = (label: string) => {
    setRenaming(false);
    if (label && label !== column.label) edit({ label });
  };
  const seal = (
    <Seal position={column.position} label={column.label} baseline={column.is_baseline} size={20} />
  );
  return (
    <th scope="col" className="border-l border-line px-2.5 py-1.5 font-normal">
      <span className="flex items-center gap-1.5">
        {may ? (
          <Menu
            label={`${column.label}: what can be done`}
            trigger={<button type="button">{seal}</button>}
            items={[
              {
                label: "Compare the others with it",
                disabled: column.is_baseline,
                act: () =>
                  void run(() => plainAct("PUT", `/api/reviews/${review.id}/baseline/${column.id}`), {
                    said: `${column.label} is the baseline.`,
                    made: "review",
                  }),
              },
              { label: "Rename it here …", act: () => setRenaming(true) },
              { label: "Move it to the left", disabled: column.position === 0, act: () => void move(-1) },
              {
                label: "Move it to the right",
                disabled: column.position === order.length - 1,
                act: () => void move(1),
              },
              {
                label: column.step === null ? "Make it the next step of a chain" : "Take it out of the chain",
                act: () => edit({ step: column.step === null ? nextStep : null }),
              },
              {
                label: "Take its later revision",
                disabled: column.latest === null || column.has_passes,
                act: () => edit({ configuration: column.latest }),
              },
              {
                label: column.has_passes ? "Remove it (it has passes, so it stays)" : "Remove it",
                disabled: column.has_passes,
                act: () =>
                  void act("DELETE", `/columns/${column.id}`, undefined, {
                    said: `${column.label} is out of the review.`,
                    undo: () =>
                      act("POST", "/columns", {
                        configuration: column.configuration_id,
                        label: column.label,
                        note: column.note,
                      }),
                  }),
              },
            ]}
          />
        ) : (
          seal
        )}
        {renaming ? (
          <input
            autoFocus
            aria-label="Its name here"
            defaultValue={column.label}
            maxLength={80}
            className="w-24 border border-ink bg-sheet px-1"
            onBlur={(event) => rename(event.target.value.trim())}
            onKeyDown={(event) => {
              if (event.key === "Enter") event.currentTarget.blur();
              if (event.key === "Escape") setRenaming(false);
            }}
          />
        ) : (
          <strong>{column.label}</strong>
        )}
      </span>
      <span className="mt-0.5 block text-small text-quiet">
        {column.is_baseline && !review.single && "baseline · "}
        {column.step !== null && `step ${column.step} of a chain · `}
        <Link
          to={`/systems/${column.system_id}?configuration=${column.configuration_id}`}
          className="underline decoration-line hover:decoration-ink"
        >
          {column.configuration}
          {column.revision > 1 && `, revision ${column.revision}`}
        </Link>
        {column.blocked && <span className="block text-mark">⚑ cannot be built</span>}
        {column.latest !== null && <span className="block">a later revision exists</span>}
      </span>
    </th>
  );
}
