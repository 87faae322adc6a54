import { useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { api } from "../api/client";
import { keys } from "../api/queries";
import { useSession } from "../api/session";
import { Button } from "../design/Button";
import { useAct } from "../design/useAct";
import { When } from "../design/When";

/** What somebody has to know of their own account before anything else. */
export function AccountNotes() {
  const session = useSession();
  const client = useQueryClient();
  const act = useAct();
  const known = () =>
    void act(async () => {
      await api.PUT("/api/account/told");
      await client.invalidateQueries({ queryKey: keys.session });
    });
  return (
    <>
      {session.owes_second_factor && (
        <p role="status" className="border-b border-mark px-5 py-1.5 text-note">
          The team asks you for a second factor. Until you have set one you can read, and do no more.{" "}
          <Link to="/account" className="underline">
            Set it now
          </Link>
        </p>
      )}
      {session.changed.length > 0 && (
        <section aria-label="Changes of your account" className="border-b border-mark px-5 py-1.5 text-note">
          <p>Since you were last told:</p>
          <ul className="list-disc pl-5">
            {session.changed.map((one) => (
              <li key={`${one.kind} ${one.at}`}>
                {one.words}, <When at={one.at} />
                {one.address && ` from ${one.address}`}
              </li>
            ))}
          </ul>
          <p className="flex flex-wrap items-baseline gap-4">
            <Button kind="link" onClick={known}>
              I know of it
            </Button>
            <span>
              It was not you, and no admin told you? Set a new password and end the other sessions on{" "}
              <Link to="/account" className="underline">
                your account
              </Link>
              , and tell an admin.
            </span>
          </p>
        </section>
      )}
    </>
  );
}
