import { useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { Problem, type VerdictShape } from "../../api/client";
import { useReview } from "../../api/review";
import { refresh } from "../../api/stale";
import { fieldsOf, storeFields, theirsOf, type Fields } from "./verdict";

/** Storing fields of the verdict; what others have stored meanwhile comes back field by field. */
export function useStoring(verdict: VerdictShape) {
  const review = useReview();
  const client = useQueryClient();
  // Versions that came after the one on the page: one's own, and those that an edit ran into.
  const later = useRef(new Map<number, Fields>());
  return async (version: number, changes: Partial<Fields>): Promise<Fields> => {
    const base = later.current.get(version) ?? fieldsOf(review.id, verdict);
    try {
      const stored = await storeFields(review.id, base, version, changes);
      client.setQueryData(["verdict", review.id], stored);
      void refresh(client, "verdict", review.id);
      const fields = fieldsOf(review.id, stored);
      later.current.set(fields.version, fields);
      return fields;
    } catch (error) {
      const theirs = theirsOf(error);
      if (!theirs || !(error instanceof Problem)) throw error;
      const current = fieldsOf(review.id, theirs);
      later.current.set(current.version, current);
      throw new Problem(error.status, error.title, error.message, { current });
    }
  };
}
