import { useInfiniteQuery } from "@tanstack/react-query";
import { api, body, type Shapes } from "../../api/client";
import { Button } from "../../design/Button";
import { When } from "../../design/When";
import { Failed } from "../../shell/States";

type Happened = Shapes["SecurityEventShape"];

/** What mattered for who may do what, the latest first. */
export function SecurityLog() {
  const log = useInfiniteQuery({
    queryKey: ["security-log"],
    queryFn: async ({ pageParam }): Promise<Happened[]> =>
      body(await api.GET("/api/security-log", { params: { query: pageParam ? { before: pageParam } : {} } })),
    initialPageParam: "",
    getNextPageParam: (last: Happened[]) => (last.length === 100 ? last[last.length - 1]?.at : undefined),
  });
  if (log.isError) return <Failed error={log.error} again={() => void log.refetch()} />;
  const events = log.data?.pages.flat() ?? [];
  return (
    <section aria-label="Security log" className="mt-10">
      <div className="mb-1 flex items-baseline justify-between border-b-2 border-ink pb-1">
        <h2 className="font-serif text-lead font-semibold">Security log</h2>
        <a href="/api/security-log.csv" download className="text-note">
          all of it as CSV
        </a>
      </div>
      {log.data && !events.length && <p className="text-note">Nothing yet.</p>}
      <table className="w-full text-note">
        <thead className="sr-only">
          <tr>
            <th>When</th>
            <th>What</th>
            <th>Who</th>
            <th>Details</th>
          </tr>
        </thead>
        <tbody>
          {events.map((one) => (
            <tr key={one.id} className="border-b border-line align-baseline">
              <td className="w-36 py-1 pr-4 whitespace-nowrap text-quiet">
                <When at={one.at} />
              </td>
              <td className="w-48 pr-4 whitespace-nowrap">{one.kind}</td>
              <td className="w-56 pr-4">
                {[one.by, one.about && one.about !== one.by && `about ${one.about}`]
                  .filter(Boolean)
                  .join(", ") || <span className="text-quiet">nobody known</span>}
              </td>
              <td className="text-quiet">{[one.values, one.address].filter(Boolean).join(" · ")}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {log.hasNextPage && (
        <Button className="mt-3" onClick={() => void log.fetchNextPage()}>
          Earlier ones
        </Button>
      )}
    </section>
  );
}
