import { act } from "../api/acts";
import type { Shapes, SystemDocket } from "../api/client";
import { Button } from "../design/Button";
import { useAct } from "../design/useAct";
import { count } from "../marks/words";
import { Seal } from "../marks/Seal";
import { Group } from "./Group";
import { Steps } from "./Steps";
import { useMay } from "../api/session";

interface Props {
  docket: SystemDocket;
  visit: Shapes["VisitShape"];
  first: boolean;
  review?: number;
  large: boolean;
  onUp?: () => void;
  onDown?: () => void;
}

/** A stay at one configuration: the change to it, then its passes. */
export function Visit({ docket, visit, first, review, large, onUp, onDown }: Props) {
  const may = useMay();
  const run = useAct();
  const seal = visit.groups[0];
  const done = visit.steps.filter((step) => step.tick?.agrees).length;
  const begin = () =>
    void run(() => act("POST", `/api/systems/${docket.id}/changeovers`), {
      said: `The change to ${visit.title} has begun.`,
      made: "docket_of",
    });
  const giveUp = () =>
    void run(() => act("DELETE", `/api/changeovers/${visit.changeover}`), {
      said: "The change is cancelled; the next one begins with a look at everything.",
      made: "docket_of",
    });
  return (
    <>
      <div className="flex items-start justify-between gap-2">
        <p>
          {visit.present ? (
            <span className="text-quiet">now </span>
          ) : (
            <span className="text-quiet">
              {visit.opens ? "open and change to " : visit.steps.length ? "change to " : "then "}
            </span>
          )}
          {seal && seal.review === review && (
            <Seal position={seal.position} label={seal.label} baseline={seal.is_baseline} size={16} />
          )}{" "}
          <strong>{visit.title}</strong>
        </p>
        {(onUp ?? onDown) && (
          <span className="flex shrink-0">
            <Button
              kind="bare"
              aria-label={`Do ${visit.title} earlier`}
              disabled={!onUp}
              onClick={onUp}
              className={large ? "px-3 py-1.5 text-lead" : ""}
            >
              ↑
            </Button>
            <Button
              kind="bare"
              aria-label={`Do ${visit.title} later`}
              disabled={!onDown}
              onClick={onDown}
              className={large ? "px-3 py-1.5 text-lead" : ""}
            >
              ↓
            </Button>
          </span>
        )}
      </div>
      {visit.steps.length > 0 &&
        (visit.changeover === null ? (
          <>
            {first && visit.by_hand && may("tick_steps") && (
              <Button
                kind="strong"
                className={`my-1.5 ${large ? "w-full py-3 text-lead" : ""}`}
                onClick={begin}
              >
                Begin the change
              </Button>
            )}
            <details open={first} className="my-1">
              <summary className="text-quiet">{count(visit.steps.length, "step")}</summary>
              <ul className={`list-disc pl-5 ${large ? "" : "text-small"} text-quiet`}>
                {visit.steps.map((step) => (
                  <li key={step.key}>{step.words}</li>
                ))}
              </ul>
            </details>
          </>
        ) : (
          <>
            <p className="my-1 text-quiet" role="status">
              {done} of {count(visit.steps.length, "step")} done
            </p>
            <Steps changeover={visit.changeover} steps={visit.steps} may={may("tick_steps")} large={large} />
            {may("tick_steps") && (
              <Button kind="link" onClick={giveUp}>
                cancel the change
              </Button>
            )}
          </>
        ))}
      {visit.groups.map((group) => (
        <Group
          key={`${group.test}-${group.column}-${group.entries[0]?.id}`}
          group={group}
          review={review}
          large={large}
        />
      ))}
    </>
  );
}
