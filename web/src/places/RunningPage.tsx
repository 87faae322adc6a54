import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { liveQuery } from "../api/queries";
import { Seal } from "../marks/Seal";
import { RunningView } from "../sheets/running/RunningView";
import { Failed, Loading } from "../shell/States";

/** One running pass for whoever stands at the machine or wants to watch; closing the page changes nothing. */
export function RunningPage() {
  const entry = Number(useParams().entry);
  const live = useQuery(liveQuery(entry));
  if (live.isPending) return <Loading />;
  if (live.isError) return <Failed error={live.error} again={() => void live.refetch()} />;
  const data = live.data;
  return (
    <main className="mx-auto w-full max-w-[860px] p-4">
      <h1 className="font-serif text-title font-semibold">
        {data.test_name} <span className="text-lead font-normal text-quiet">{data.detail}</span>
      </h1>
      <p className="mb-3 flex flex-wrap items-center gap-x-3 gap-y-1 text-note">
        <span className="flex items-center gap-1.5">
          <Seal position={data.position} label={data.label} baseline={data.is_baseline} size={18} />
          {data.configuration}, pass {data.number}
        </span>
        <span>
          on{" "}
          <Link className="underline" to={`/systems/${data.system}`}>
            {data.system_name}
          </Link>
        </span>
        <Link className="underline" to={`/reviews/${data.review}/matrix?lens=progress`}>
          {data.question}
        </Link>
        {data.by_hand && <span>by hand, {data.by_hand}</span>}
      </p>
      <RunningView entry={entry} large />
    </main>
  );
}
