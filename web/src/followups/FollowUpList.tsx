import { useState } from "react";
import { Link } from "react-router";
import { act } from "../api/acts";
import type { Shapes } from "../api/client";
import { useMay } from "../api/session";
import { Button } from "../design/Button";
import { Dialog } from "../design/Dialog";
import { Field } from "../design/Field";
import { Menu } from "../design/Menu";
import { useAct } from "../design/useAct";
import { When } from "../design/When";
import { dayWords } from "../places/standings/day";
import { count } from "../marks/words";
import { EditFollowUp } from "./EditFollowUp";
import { WAITS } from "./waits";

type FollowUp = Shapes["FollowUpShape"];

/** Follow-ups with what can be done about each. */
export function FollowUpList({ found, about }: { found: FollowUp[]; about: boolean }) {
  return (
    <ul className="border-t border-line">
      {found.map((one) => (
        <li
          key={one.id}
          id={String(one.id)}
          className={`flex gap-4 border-b border-line py-2 ${one.is_due ? "border-l-3 border-l-mark bg-sheet pl-3" : "pl-1"}`}
        >
          <One one={one} about={about} />
        </li>
      ))}
    </ul>
  );
}

function One({ one, about }: { one: FollowUp; about: boolean }) {
  const may = useMay();
  const run = useAct();
  const [ending, setEnding] = useState<"done" | "dropped" | "">("");
  const [editing, setEditing] = useState(false);
  const path = `/api/follow-ups/${one.id}`;
  const set = (state: string, outcome = "") => act("PUT", `${path}/state`, { state, outcome });
  const here = (is: boolean) => act(is ? "PUT" : "DELETE", `${path}/here`);
  const open = one.state === "open";
  const items = [
    {
      label: one.here_at ? "It is not here after all" : "What it waits for is here",
      act: () =>
        void run(() => here(!one.here_at), {
          said: one.here_at ? "It waits again." : "It is due now.",
          undo: () => here(Boolean(one.here_at)),
          made: "follow_ups",
        }),
    },
    ...(one.review !== null && may("ask_for_passes")
      ? [
          {
            label: "Put its passes on the docket",
            act: () =>
              void run(
                async () => {
                  const made = await act<Shapes["MadeShape"]>("POST", `${path}/passes`, { passes: 3 });
                  return made.passes;
                },
                { said: "Three passes of each of its cells are owed.", made: "docket" },
              ),
          },
        ]
      : []),
    ...(one.review !== null && may("edit_review")
      ? [
          {
            label: "Make a review of it",
            act: () =>
              void run(
                async () => {
                  const made = await act<Shapes["MadeShape"]>("POST", `${path}/review`);
                  window.location.assign(`/reviews/${made.review}/brief`);
                },
                { made: "review" },
              ),
          },
        ]
      : []),
    { label: "Change it …", act: () => setEditing(true) },
    { label: "It is done …", act: () => setEnding("done") },
    { label: "Drop it …", act: () => setEnding("dropped") },
  ];
  return (
    <>
      <div className="min-w-0 grow">
        <p className="font-semibold">
          {one.what} {one.is_due && <span className="text-note font-normal text-mark">due</span>}
        </p>
        {one.why && <p className="text-note">{one.why}</p>}
        <p className="text-note text-quiet">
          {[
            one.due && `on ${dayWords(one.due)}`,
            one.waits_words && `waits for ${WAITS[one.waits_for]}: ${one.waits_words}`,
            one.tests.length > 0 && `wants ${count(one.tests.length, "test")}`,
            one.person_name && `${one.person_name} sees to it`,
            `noted by ${one.by}`,
          ]
            .filter(Boolean)
            .join(" · ")}
          {about && one.review !== null && (
            <>
              {" · "}
              <Link to={`/reviews/${one.review}/brief`} className="underline">
                {one.question}
              </Link>
            </>
          )}
          {one.record && (
            <>
              {" · "}
              <a href={`/records/${one.record}`} className="underline">
                edition {one.edition}
              </a>
            </>
          )}
          {about && one.system !== null && (
            <>
              {" · "}
              <Link to={`/systems/${one.system}`} className="underline">
                {one.system_name}
              </Link>
            </>
          )}
        </p>
        {!open && (
          <p className="text-note">
            {one.state === "done" ? "Done" : "Dropped"}
            {one.outcome && `: ${one.outcome}`}{" "}
            <span className="text-quiet">
              {one.ended_by}, {one.ended_at && <When at={one.ended_at} />}
            </span>
          </p>
        )}
      </div>
      {may("follow_up") &&
        (open ? (
          <Menu
            label={`${one.what}: what can be done`}
            trigger={
              <button type="button" className="self-start pr-2 text-note underline">
                do
              </button>
            }
            items={items}
          />
        ) : (
          <Button
            kind="link"
            className="self-start text-note"
            onClick={() => void run(() => set("open"), { said: "It is open again.", made: "follow_ups" })}
          >
            take it up again
          </Button>
        ))}
      {editing && <EditFollowUp one={one} onClose={() => setEditing(false)} />}
      {ending && (
        <Dialog
          open
          onClose={() => setEnding("")}
          title={ending === "done" ? "What came of it" : "Why it is dropped"}
        >
          <form
            onSubmit={(event) => {
              event.preventDefault();
              const outcome = String(new FormData(event.currentTarget).get("outcome"));
              void run(() => set(ending, outcome), {
                said: ending === "done" ? "It is done." : "It is dropped.",
                undo: () => set("open"),
                made: "follow_ups",
              }).then((done) => done && setEnding(""));
            }}
          >
            <Field label={one.what}>
              <textarea name="outcome" rows={3} maxLength={600} required={ending === "dropped"} />
            </Field>
            <Button kind="strong" type="submit">
              {ending === "done" ? "It is done" : "Drop it"}
            </Button>
          </form>
        </Dialog>
      )}
    </>
  );
}
