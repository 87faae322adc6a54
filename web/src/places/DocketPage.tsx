import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { SystemOrder } from "../docket/SystemOrder";
import { systemDocketQuery } from "../api/queries";
import { Failed, Loading } from "../shell/States";

/** The docket of one system, for whoever stands at the machine: one column, large targets. */
export function DocketPage() {
  const docket = useQuery(systemDocketQuery(Number(useParams().system)));
  if (docket.isPending) return <Loading />;
  if (docket.isError) return <Failed error={docket.error} again={() => void docket.refetch()} />;
  const data = docket.data;
  return (
    <main className="mx-auto w-full max-w-[640px] p-4">
      <h1 className="font-serif text-title font-semibold">
        Docket of{" "}
        <Link to={`/systems/${data.id}`} className="no-underline hover:underline">
          {data.system}
        </Link>
      </h1>
      <SystemOrder docket={data} large />
      {data.visits.length === 0 && data.running.length === 0 && (
        <p className="mt-4 font-serif text-lead">
          No pass is owed on {data.system}. Passes are asked for in a review&rsquo;s matrix.
        </p>
      )}
    </main>
  );
}
