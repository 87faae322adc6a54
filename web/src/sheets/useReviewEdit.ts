import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { editReview, type ReviewEdit } from "../api/acts";
import { Problem, type ReviewShape } from "../api/client";
import { keys } from "../api/queries";

interface Editing {
  busy: boolean;
  problem: string;
  /** What is stored now, when somebody else was faster. */
  theirs: ReviewShape | null;
  save: (changes: ReviewEdit, onVersion?: number) => Promise<boolean>;
}

/**
 * Saving edits of a review on the version that they began with. A version that is no longer the present one is not
 * overwritten: the edit stays in the form and what is stored now is shown beside it.
 */
export function useReviewEdit(review: number, version: number): Editing {
  const client = useQueryClient();
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState("");
  const [theirs, setTheirs] = useState<ReviewShape | null>(null);
  const save = async (changes: ReviewEdit, onVersion = version) => {
    setBusy(true);
    setProblem("");
    try {
      const saved = await editReview(review, onVersion, changes);
      setTheirs(null);
      client.setQueryData(keys.review(review), saved);
      return true;
    } catch (error) {
      if (error instanceof Problem && error.status === 412) setTheirs(error.members.current as ReviewShape);
      setProblem((error as Error).message);
      return false;
    } finally {
      setBusy(false);
    }
  };
  return { busy, problem, theirs, save };
}
