import { useState } from "react";
import { useReview } from "../api/review";
import { Hint } from "../first/Hint";
import { FollowUpsOf } from "../followups/FollowUpsOf";
import { WatchedIn } from "../followups/WatchItems";
import { ReferencesOf } from "../references/ReferencesOf";
import { AddColumn } from "./brief/AddColumn";
import { AddTests } from "./brief/AddTests";
import { BriefFacts } from "./brief/BriefFacts";
import { Factors } from "./brief/Factors";
import type { Opened } from "./brief/opened";
import { Ladders } from "./brief/Ladders";
import { PlanCheck } from "./brief/PlanCheck";
import { PlanTable } from "./brief/PlanTable";
import { SinceCopied } from "./brief/SinceCopied";
import { SlotMaps } from "./brief/SlotMaps";
import { Tests } from "./brief/Tests";

/** The plan: what is varied, what differs beyond it, the tests, and what the plan cannot answer as it stands. */
export function Brief() {
  const review = useReview();
  const [open, setOpen] = useState<Opened>(null);
  const [lit, setLit] = useState<string | null>(null);
  return (
    <main className="grid gap-8 p-5 lg:grid-cols-[minmax(0,1fr)_340px]">
      <div className="flex min-w-0 flex-col gap-7">
        <Hint name="brief" />
        {!review.single && <Factors />}
        <PlanTable lit={lit} open={open} setOpen={setOpen} />
        <SlotMaps />
        <Ladders />
        <Tests lit={lit} onAdd={() => setOpen("tests")} />
      </div>
      <aside className="min-w-0 border-l-2 border-ink pl-5">
        <PlanCheck onOpen={setOpen} onLight={setLit} />
        <SinceCopied />
        <ReferencesOf />
        <WatchedIn review={review.id} />
        <FollowUpsOf about={{ review: review.id }} tests={review.tests} />
        <BriefFacts editing={open === "edit"} onEdit={(on) => setOpen(on ? "edit" : null)} />
      </aside>
      {open === "column" && <AddColumn onClose={() => setOpen(null)} />}
      {open === "tests" && <AddTests onClose={() => setOpen(null)} />}
    </main>
  );
}
