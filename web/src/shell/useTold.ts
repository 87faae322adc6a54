import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { inboxQuery } from "../api/queries";
import { followUpsQuery } from "../api/standings";
import { count } from "../marks/words";

/** While a page is open but not looked at, the browser tells what comes into the inbox or comes due, if it may. */
export function useTold(): void {
  const unread = useQuery(inboxQuery).data?.unread;
  const due = useQuery(followUpsQuery()).data?.filter((one) => one.is_due).length;
  useRise(unread, (more) => `${count(more, "comment")} for you`, "/inbox");
  useRise(due, (more) => `${count(more, "follow-up")} came due`, "/follow-ups");
}

/** Tells when a number has risen since it was last known. */
function useRise(now: number | undefined, words: (more: number) => string, path: string): void {
  const before = useRef(now);
  useEffect(() => {
    const more = now !== undefined && before.current !== undefined ? now - before.current : 0;
    before.current = now;
    if (more <= 0 || !document.hidden || !("Notification" in window)) return;
    if (Notification.permission !== "granted") return;
    const told = new Notification("Nomothet", { body: words(more), tag: path });
    told.onclick = () => {
      window.focus();
      window.location.assign(path);
    };
  });
}
