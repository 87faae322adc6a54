import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Fragment, useEffect, useRef, useState, useSyncExternalStore, type ReactNode } from "react";
import { Link, NavLink, useNavigate } from "react-router";
import { signOut } from "../api/acts";
import { useFeed } from "../api/feed";
import { inboxQuery, installationQuery, keys, messagesQuery, reviewsQuery } from "../api/queries";
import { followUpsQuery } from "../api/standings";
import { usePreferences } from "../api/preferences";
import { dress } from "../design/scheme";
import { DialogSheet } from "../design/Dialog";
import { later } from "../design/later";
import { Menu, OpenMenu } from "../design/Menu";
import { drawAnew, drawnAnew, watchDrawings } from "../design/writing";
import { draftsHeld } from "../design/useDraft";
import { count } from "../marks/words";
import { useKeys } from "./keys";
import { useTold } from "./useTold";
import { whenIdle } from "./whenIdle";
import { AccountNotes } from "./AccountNotes";
import { Boundary } from "./Boundary";
import { Palette } from "./Palette";
import { useMay, useSession } from "../api/session";

const PLACES = [
  ["/reviews", "Reviews"],
  ["/systems", "Systems"],
  ["/shelf", "Shelf"],
  ["/workloads", "Workloads"],
  ["/standings", "Standings"],
] as const;

const CHORD_MS = 1200;

const KeysSheet = later(() => import("./KeysSheet").then((m) => m.KeysSheet));
const Leaving = later(() => import("./Leaving").then((m) => m.Leaving));
// What the first page can do without, and what is wanted at once when a key asks for it.
const SOON = [OpenMenu, DialogSheet, KeysSheet, Leaving];

/** The bar at the top, the live feed and the keys that work everywhere. */
export function Frame({ children }: { children: ReactNode }) {
  const session = useSession();
  const live = useFeed();
  const navigate = useNavigate();
  const client = useQueryClient();
  const [help, setHelp] = useState(false);
  const [palette, setPalette] = useState(false);
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.altKey || event.key.toLowerCase() !== "k") return;
      event.preventDefault();
      setPalette((open) => !open);
    };
    document.addEventListener("keydown", listen);
    return () => document.removeEventListener("keydown", listen);
  }, []);
  const going = useRef(0);
  // Letters are free for a sheet's own acts but for a moment after g.
  const chord = (path: string) => () => {
    if (Date.now() - going.current > CHORD_MS) return false;
    going.current = 0;
    void navigate(path);
    return true;
  };
  useKeys({
    "?": () => setHelp(true),
    g: () => {
      going.current = Date.now();
    },
    r: chord("/reviews"),
    s: chord("/systems"),
    h: chord("/shelf"),
    w: chord("/workloads"),
    t: chord("/standings"),
    f: chord("/follow-ups"),
    "/": () => document.querySelector<HTMLInputElement>("[data-search]")?.focus(),
  });
  useTold();
  useEffect(() => whenIdle(() => SOON.forEach((part) => void part.load().catch(() => undefined))), []);
  const { preferences } = usePreferences();
  // Where they come in after the first drawing and numbers are to be written otherwise, all is drawn once more.
  const drawn = useSyncExternalStore(watchDrawings, drawnAnew);
  useEffect(() => {
    if (preferences && dress(preferences)) drawAnew();
  }, [preferences]);
  const may = useMay();
  const [leaving, setLeaving] = useState(false);
  const leave = async (asked = false) => {
    if (!asked && draftsHeld()) return setLeaving(true);
    await signOut();
    client.clear();
    await client.invalidateQueries({ queryKey: keys.session });
    window.location.assign("/");
  };
  return (
    <div className="flex min-h-screen flex-col">
      <a
        href="#content"
        className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-sheet focus:p-2"
      >
        Skip to the content
      </a>
      <header className="no-print flex min-h-10.5 flex-wrap items-center gap-x-6 bg-bar px-5 text-on-bar max-sm:px-4">
        <Link to="/reviews" className="font-serif text-lead font-semibold no-underline">
          Nomothet
          {session.team && (
            <span className="ml-2 font-sans text-note font-normal text-on-bar-quiet">{session.team}</span>
          )}
        </Link>
        <nav className="flex gap-5 max-sm:gap-4" aria-label="Places">
          {PLACES.map(([to, name]) => (
            <NavLink
              key={to}
              to={to}
              className={({ isActive }) =>
                `border-b-2 py-0.5 no-underline ${isActive ? "border-mark" : "border-transparent hover:border-on-bar-quiet"}`
              }
            >
              {name}
            </NavLink>
          ))}
        </nav>
        <div className="ml-auto flex items-center gap-6 text-note max-sm:hidden">
          <Running live={live} />
          <DueMark />
          <InboxMark />
          <UnwellMark />
          <button
            type="button"
            onClick={() => setPalette(true)}
            aria-label="find, Ctrl K: go anywhere, find or do anything"
          >
            find <kbd className="font-sans font-semibold">Ctrl K</kbd>
          </button>
          <button type="button" onClick={() => setHelp(true)} aria-label="Show all keys">
            keys <kbd className="font-sans font-semibold">?</kbd>
          </button>
          <Menu
            label={`${session.display_name}, your account`}
            trigger={<button type="button">{session.display_name}</button>}
            items={[
              { label: "Your account", act: () => void navigate("/account") },
              ...(may("manage_people") ? [{ label: "People", act: () => void navigate("/people") }] : []),
              ...(may("look_after")
                ? [{ label: "Installation", act: () => void navigate("/installation") }]
                : []),
              { label: `Sign out (${session.role})`, act: () => void leave() },
            ]}
          />
        </div>
      </header>
      <AccountNotes />
      <div id="content" className="flex flex-1 flex-col">
        <Fragment key={drawn}>{children}</Fragment>
      </div>
      {palette && (
        <Palette
          onClose={() => setPalette(false)}
          own={[
            { words: "All keys", detail: "?", act: () => setHelp(true) },
            { words: "Sign out", detail: session.display_name ?? "", act: () => void leave() },
          ]}
        />
      )}
      <Boundary place={`${help} ${leaving}`}>
        {leaving && <Leaving onLeave={() => void leave(true)} onStay={() => setLeaving(false)} />}
        {help && <KeysSheet onClose={() => setHelp(false)} />}
      </Boundary>
    </div>
  );
}

/** How much is due of what was left for later. */
function DueMark() {
  const { data } = useQuery(followUpsQuery());
  const due = data?.filter((one) => one.is_due).length ?? 0;
  return (
    <Link to="/follow-ups" className="no-underline hover:underline">
      follow-ups{due > 0 && <strong> {due}</strong>}
    </Link>
  );
}

/** How much waits in the inbox. */
function InboxMark() {
  const { data } = useQuery(inboxQuery);
  const may = useMay();
  const readers = useQuery({ ...messagesQuery, enabled: may("publish") });
  const waiting = (data?.unread ?? 0) + (readers.data?.waiting ?? 0);
  return (
    <Link to="/inbox" className="no-underline hover:underline">
      inbox{waiting > 0 && <strong> {waiting}</strong>}
    </Link>
  );
}

/** Tells who looks after the installation that something is not as it should be. */
function UnwellMark() {
  const may = useMay();
  const { data } = useQuery({ ...installationQuery, enabled: may("look_after") });
  const unwell = data?.parts.filter((part) => part.state !== "well").map((part) => part.part) ?? [];
  if (!unwell.length) return null;
  return (
    <Link to="/installation" className="no-underline hover:underline">
      <strong>{unwell.join(" and ")} unwell</strong>
    </Link>
  );
}

function Running({ live }: { live: boolean }) {
  const { data } = useQuery(reviewsQuery);
  if (!live) return <span role="status">not live just now, trying again</span>;
  const busy = data?.filter((review) => review.running > 0) ?? [];
  const first = busy[0];
  if (!first) return <span className="text-on-bar-quiet">no run in progress</span>;
  const running = busy.reduce((sum, review) => sum + review.running, 0);
  return (
    <Link to={`/reviews/${first.id}/matrix?lens=progress`} className="no-underline hover:underline">
      <span aria-hidden="true">● </span>
      {count(running, "pass")} running
    </Link>
  );
}
