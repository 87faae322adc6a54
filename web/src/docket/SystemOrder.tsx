import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../api/acts";
import type { SystemDocket } from "../api/client";
import { keys } from "../api/queries";
import { Menu } from "../design/Menu";
import { useAct } from "../design/useAct";
import { When } from "../design/When";
import { count, duration } from "../marks/words";
import { HoldNote } from "./HoldNote";
import { Group } from "./Group";
import { Visit } from "./Visit";
import { useMay } from "../api/session";
import { Term } from "../design/Term";

const MODES: Record<string, string> = {
  fewest: "with the fewest openings",
  balanced: "in rounds, there and back",
  shuffled: "in shuffled rounds",
  "by hand": "as ordered by hand",
};

interface Props {
  docket: SystemDocket;
  /** The review beside whose matrix this stands; passes of others are named. */
  review?: number;
  large?: boolean;
}

/** What one system is to do, in order; visits are moved by dragging or by the keys on them. */
export function SystemOrder({ docket, review, large = false }: Props) {
  const may = useMay();
  const run = useAct();
  const client = useQueryClient();
  const [dragged, setDragged] = useState<number | null>(null);
  const order = (mode: string, more: object = {}, said?: string, undo?: () => Promise<unknown>) =>
    run(
      async () => {
        const next = await act<SystemDocket>("PUT", `/api/systems/${docket.id}/docket`, { mode, ...more });
        client.setQueryData(keys.systemDocket(docket.id), next);
      },
      { said, undo, made: "docket_of" },
    );
  const hand = [...new Set(docket.visits.map((visit) => visit.configuration))];
  const moveTo = (configuration: number, at: number) => {
    const next = hand.filter((one) => one !== configuration);
    next.splice(at, 0, configuration);
    if (next.join() === hand.join()) return;
    void order("by hand", { by_hand: next }, "The order is changed.", () =>
      act("PUT", `/api/systems/${docket.id}/docket`, {
        mode: docket.mode,
        seed: docket.seed,
        by_hand: docket.mode === "by hand" ? hand : [],
      }),
    );
  };
  const orders = may("tick_steps");
  return (
    <div className={large ? "text-body" : "text-note"}>
      <p className="text-quiet">
        {docket.has_bench ? (
          docket.heard_at ? (
            <>
              <Term name="bench" /> heard <When at={docket.heard_at} />
            </>
          ) : (
            "its bench was not heard yet"
          )
        ) : (
          "no bench is connected, so nothing runs by itself"
        )}
        {docket.present && ` · is ${docket.present}`}
      </p>
      {docket.visits.length > 0 && (
        <p className="mb-2 text-quiet">
          {orders ? (
            <Menu
              label="Change the order"
              trigger={
                <button type="button" className="underline decoration-line hover:decoration-ink">
                  {MODES[docket.mode]}
                </button>
              }
              items={["fewest", "balanced", "shuffled"].map((mode) => ({
                label: MODES[mode] ?? mode,
                act: () =>
                  void order(
                    mode,
                    { seed: mode === "shuffled" ? docket.seed + 1 : docket.seed },
                    `Now ${MODES[mode]}.`,
                  ),
              }))}
            />
          ) : (
            MODES[docket.mode]
          )}
          : {count(docket.openings, "opening")}
          {docket.openings > docket.fewest_openings && ` (${docket.fewest_openings} would do)`}
          {docket.mode === "shuffled" && `, seed ${docket.seed}`}, about {duration(docket.hours * 3600)}
        </p>
      )}
      {docket.hold && <HoldNote docket={docket} hold={docket.hold} may={orders} large={large} />}
      {docket.running.map((group) => (
        <Group key={group.entries[0]?.id} group={group} review={review} large={large} />
      ))}
      <ol className="border-t border-line">
        {docket.visits.map((visit, at) => {
          const place = hand.indexOf(visit.configuration);
          const movable = orders && hand.length === docket.visits.length && hand.length > 1;
          return (
            <li
              key={`${visit.configuration}-${at}`}
              draggable={movable && !large}
              onDragStart={() => setDragged(visit.configuration)}
              onDragOver={(event) => event.preventDefault()}
              onDrop={() => dragged !== null && moveTo(dragged, place)}
              className="border-b border-line py-2"
            >
              <Visit
                docket={docket}
                visit={visit}
                first={at === 0}
                review={review}
                large={large}
                onUp={movable && place > 0 ? () => moveTo(visit.configuration, place - 1) : undefined}
                onDown={
                  movable && place < hand.length - 1
                    ? () => moveTo(visit.configuration, place + 1)
                    : undefined
                }
              />
            </li>
          );
        })}
      </ol>
      {docket.blocked.length > 0 && (
        <p className="mt-2 text-mark">
          ⚑ {count(docket.blocked.length, "cell")} cannot be run, as their configuration cannot be built:{" "}
          {[...new Set(docket.blocked.map((group) => group.label))].join(", ")}.
        </p>
      )}
    </div>
  );
}
