import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link, useLocation, useNavigate, useParams } from "react-router";
import { TERMS } from "../design/terms";
import { anchor } from "../help/anchor";
import { CONTENTS, readerOf } from "../help/pages";
import { Failed, Loading } from "../shell/States";

const FIRST = "help/begin";

/** How things are done, what words mean, and the method: the pages of `docs/`, here. */
export function Help() {
  const page = useParams()["*"] || FIRST;
  const title = CONTENTS.flatMap((one) => one.pages).find(([key]) => key === page)?.[1];
  return (
    <main className="grid flex-1 gap-8 p-5 lg:grid-cols-[220px_minmax(0,1fr)]">
      <nav aria-label="Help" className="text-note">
        {CONTENTS.map((group) => (
          <section key={group.title} className="mb-4">
            <h2 className="mb-1 font-semibold">{group.title}</h2>
            <ul>
              {group.pages.map(([key, words]) => (
                <li key={key}>
                  <Link
                    to={`/help/${key}`}
                    aria-current={key === page ? "page" : undefined}
                    className={`block border-l-3 px-2 py-0.5 no-underline hover:bg-band ${key === page ? "border-mark bg-band" : "border-transparent"}`}
                  >
                    {words}
                  </Link>
                </li>
              ))}
            </ul>
          </section>
        ))}
        <a href="/api/schema" className="underline">
          The API, described for programs
        </a>
      </nav>
      {page === "glossary" ? <Words /> : <Page key={page} page={page} title={title ?? page} />}
    </main>
  );
}

function Page({ page, title }: { page: string; title: string }) {
  const navigate = useNavigate();
  const { hash } = useLocation();
  const read = readerOf(page);
  const query = useQuery({
    queryKey: ["help", page],
    queryFn: () => read?.() ?? Promise.reject(new Error(`There is no page ${page} in the help.`)),
    staleTime: Infinity,
    retry: false,
  });
  const { data } = query;
  useEffect(() => {
    if (data) goTo(hash);
  }, [data, hash]);
  if (query.isPending) return <Loading />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  return (
    <article
      aria-label={title}
      className="prose max-w-[76ch] min-w-0"
      // The pages are ours and were made into HTML when the front end was built.
      dangerouslySetInnerHTML={{ __html: data ?? "" }}
      onClick={(event) => {
        const link = (event.target as HTMLElement).closest("a");
        const path = link?.getAttribute("href");
        if (!path?.startsWith("/help/") || event.ctrlKey || event.metaKey) return;
        event.preventDefault();
        void navigate(path);
      }}
    />
  );
}

/** Brings a place of the page into sight, and the reading on from there. */
function goTo(hash: string): void {
  const place = document.getElementById(decodeURIComponent(hash.slice(1)));
  if (!place) return;
  place.tabIndex = -1;
  place.focus({ preventScroll: true });
  place.scrollIntoView();
}

function Words() {
  const { hash } = useLocation();
  useEffect(() => goTo(hash), [hash]);
  return (
    <article aria-label="Words" className="prose max-w-[76ch] min-w-0">
      <h1>Words</h1>
      <dl>
        {Object.entries(TERMS).map(([name, words]) => (
          <div key={name} id={anchor(name)}>
            <dt>{name}</dt>
            <dd>{words}</dd>
          </div>
        ))}
      </dl>
    </article>
  );
}
