import { LANGUAGE } from "./language";
import { useEffect, useState } from "react";

const STEPS: [number, Intl.RelativeTimeFormatUnit][] = [
  [60, "second"],
  [3600, "minute"],
  [86400, "hour"],
  [Number.POSITIVE_INFINITY, "day"],
];
const SECONDS: Record<string, number> = { second: 1, minute: 60, hour: 3600, day: 86400 };
const format = new Intl.RelativeTimeFormat(LANGUAGE, { numeric: "auto" });

const CLOCKS_APART_S = 300;

function relative(at: Date, now: number): string {
  const ahead = (at.getTime() - now) / 1000;
  // A server whose clock is a little ahead tells of what has just happened.
  const away = ahead > 0 && ahead < CLOCKS_APART_S ? 0 : ahead;
  const unit = STEPS.find(([under]) => Math.abs(away) < under)?.[1] ?? "day";
  return format.format(Math.round(away / (SECONDS[unit] ?? 1)), unit);
}

/** A time as people say it, with the exact one on hover. */
export function When({ at }: { at: string }) {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = window.setInterval(() => setNow(Date.now()), 10_000);
    return () => window.clearInterval(timer);
  }, []);
  const date = new Date(at);
  return (
    <time dateTime={at} title={date.toLocaleString(LANGUAGE, { dateStyle: "long", timeStyle: "medium" })}>
      {relative(date, now)}
    </time>
  );
}
