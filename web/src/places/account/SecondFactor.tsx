import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { api, body, type Shapes } from "../../api/client";
import { accountQuery, keys } from "../../api/queries";
import { Button } from "../../design/Button";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/Field";
import { useAct } from "../../design/useAct";
import { count } from "../../marks/words";

type Wish = "begin" | "remove" | "codes";

const ASKED: Record<Wish, string> = {
  begin: "Begin a second factor",
  remove: "Take the second factor off",
  codes: "Make new recovery codes",
};

/** A code by time beside the password, with recovery codes for when the device is lost. */
export function SecondFactor() {
  const account = useQuery(accountQuery);
  const act = useAct();
  const client = useQueryClient();
  const [wish, setWish] = useState<Wish | null>(null);
  const [begun, setBegun] = useState<Shapes["BegunShape"] | null>(null);
  const [codes, setCodes] = useState<string[]>([]);
  const on = account.data?.second_factor;
  const grant = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const password = String(new FormData(event.currentTarget).get("password"));
    const done = await act(
      async () => {
        if (wish === "begin") {
          setBegun(body(await api.POST("/api/account/second-factor", { body: { password } })));
        } else if (wish === "codes") {
          setCodes(body(await api.POST("/api/account/recovery-codes", { body: { password } })).codes);
        } else {
          await api.DELETE("/api/account/second-factor", { body: { password } as never });
        }
        return true;
      },
      {
        said: wish === "remove" ? "The password alone opens your account from now on." : "",
        made: "account",
      },
    );
    if (done && wish === "remove") setWish(null);
  };
  const confirm = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const code = String(new FormData(event.currentTarget).get("code"));
    const made = await act(
      async () => body(await api.PUT("/api/account/second-factor", { body: { code } })),
      { made: "account" },
    );
    if (!made) return;
    setCodes(made.codes);
    // What the team asks for may be met now.
    await client.invalidateQueries({ queryKey: keys.session });
  };
  const close = () => {
    setWish(null);
    setBegun(null);
    setCodes([]);
  };
  const step = codes.length
    ? "Recovery codes, told this once"
    : begun
      ? "Take it into your app"
      : wish && ASKED[wish];
  return (
    <section aria-label="Second factor" className="mt-8">
      <h2 className="mb-2 border-b-2 border-ink pb-1 font-serif text-lead font-semibold">Second factor</h2>
      <p className="mb-3 text-note text-quiet">
        {on
          ? `Signing in asks for a code of your device. ${count(account.data?.recovery_codes ?? 0, "recovery code is", "recovery codes are")} left.`
          : "Signing in asks for the password alone. An app that shows codes by time makes a second factor."}
      </p>
      <div className="flex gap-3">
        {on ? (
          <>
            <Button onClick={() => setWish("codes")}>{ASKED.codes}</Button>
            <Button onClick={() => setWish("remove")}>{ASKED.remove}</Button>
          </>
        ) : (
          <Button onClick={() => setWish("begin")} disabled={!account.data}>
            {ASKED.begin}
          </Button>
        )}
      </div>
      {/* One dialog for all steps: a second one would take the focus from the first and close with it. */}
      {step && (
        <Dialog open onClose={close} title={step}>
          {codes.length > 0 ? (
            <Codes codes={codes} onKept={close} />
          ) : begun ? (
            <form onSubmit={(event) => void confirm(event)}>
              <img
                src={begun.picture}
                alt={`The secret as a picture to be read by an app: ${begun.secret}`}
                className="mx-auto mb-3 bg-white"
              />
              <p className="mb-3 text-note">
                Or type the secret: <span className="font-mono break-all">{begun.secret}</span>
              </p>
              <Field label="The code that the app shows now">
                <input name="code" inputMode="numeric" autoComplete="one-time-code" required maxLength={10} />
              </Field>
              <Button kind="strong" type="submit">
                Take it into use
              </Button>
            </form>
          ) : (
            <form onSubmit={(event) => void grant(event)}>
              <Field label="Your password">
                <input name="password" type="password" autoComplete="current-password" required autoFocus />
              </Field>
              <Button kind="strong" type="submit">
                Go on
              </Button>
            </form>
          )}
        </Dialog>
      )}
    </section>
  );
}

function Codes({ codes, onKept }: { codes: string[]; onKept: () => void }) {
  return (
    <>
      <p className="mb-3 text-note text-quiet">
        Each stands in once for a code of the app. Keep them where you find them without your device.
      </p>
      <ul className="mb-4 grid grid-cols-2 gap-x-6 gap-y-1 font-mono" aria-label="Recovery codes">
        {codes.map((code) => (
          <li key={code}>{code}</li>
        ))}
      </ul>
      <div className="flex gap-3">
        <Button onClick={() => void navigator.clipboard.writeText(codes.join("\n"))}>Copy them</Button>
        <Button kind="strong" onClick={onKept}>
          I have kept them
        </Button>
      </div>
    </>
  );
}
