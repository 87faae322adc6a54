import { useState, type FormEvent } from "react";
import type { PassShape } from "../../../api/client";
import { act } from "../../../api/acts";
import type { Stretch } from "../../../api/queries";
import { Button } from "../../../design/Button";
import { Dialog } from "../../../design/Dialog";
import { Field } from "../../../design/Field";
import { useAct } from "../../../design/useAct";
import { figure } from "../../../marks/words";

interface Props {
  pass: PassShape;
  stretch: Stretch | null;
  shift: number;
  may: (act: string) => boolean;
}

const STALE = ["matrix", "cell", "trace", "distribution", "reviews", "completeness"];
const SPANS = ["menu", "loading", "indoor", "outdoor", "crowd", "cut scene"];

/** What can be done to the stretch in sight: set it aside, or give it a name. Zooming in chooses it. */
export function RangeActs({ pass, stretch, shift, may }: Props) {
  const [doing, setDoing] = useState<"aside" | "name" | null>(null);
  const run = useAct();
  if (!may("set_aside")) return null;
  if (!stretch) {
    return <span className="text-note text-quiet">Zoom in on a part to set it aside or to name it.</span>;
  }
  const range = {
    start_s: Math.max(0, Math.round((stretch.from - shift) * 100) / 100),
    end_s: Math.round((stretch.to - shift) * 100) / 100,
  };
  const words = `${figure(range.start_s)} to ${figure(range.end_s)} s of pass ${pass.number}`;
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const said = String(new FormData(event.currentTarget).get("words") ?? "").trim();
    const made =
      doing === "aside"
        ? await run(
            () => act<{ id: number }>("POST", `/api/passes/${pass.id}/ranges`, { ...range, reason: said }),
            {
              said: `${words} is set aside; every figure leaves it out.`,
              undo: ({ id }) => act("DELETE", `/api/ranges/${id}`),
              stale: STALE,
            },
          )
        : await run(
            () => act<{ id: number }>("POST", `/api/passes/${pass.id}/marks`, { ...range, label: said }),
            {
              said: `${words} is marked “${said}”.`,
              undo: ({ id }) => act("DELETE", `/api/marks/${id}`),
              stale: STALE,
            },
          );
    if (made) setDoing(null);
  };
  return (
    <>
      <Button kind="link" onClick={() => setDoing("aside")}>
        Set this part aside
      </Button>
      <Button kind="link" onClick={() => setDoing("name")}>
        Name this part
      </Button>
      <Dialog
        open={doing !== null}
        onClose={() => setDoing(null)}
        title={`${doing === "aside" ? "Set aside" : "Name"} ${words}`}
      >
        <form onSubmit={(event) => void submit(event)}>
          <p className="mb-3">
            {doing === "aside"
              ? "No figure counts it. It stays on record with your name and reason, and can be taken back."
              : "A named part has its own figures, and a test can count it alone or leave it out."}
          </p>
          <Field label={doing === "aside" ? "Why" : "Name"}>
            <input name="words" required maxLength={60} autoFocus autoComplete="off" list="span-names" />
          </Field>
          {doing === "name" && (
            <datalist id="span-names">
              {SPANS.map((name) => (
                <option key={name} value={name} />
              ))}
            </datalist>
          )}
          <div className="flex gap-3">
            <Button kind="strong" type="submit">
              {doing === "aside" ? "Set aside" : "Keep the name"}
            </Button>
            <Button onClick={() => setDoing(null)}>Leave it</Button>
          </div>
        </form>
      </Dialog>
    </>
  );
}
