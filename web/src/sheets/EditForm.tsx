import { useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { editReview } from "../api/acts";
import type { ReviewShape } from "../api/client";
import { keys } from "../api/queries";
import { VersionedForm } from "../design/VersionedForm";

interface Props {
  /** The review as it was when the edit began. */
  began: ReviewShape;
  label: string;
  changesOf: (form: FormData) => Partial<ReviewShape>;
  onClose: () => void;
  children: ReactNode;
}

const WORDS: Partial<Record<keyof ReviewShape, string>> = {
  question: "Question",
  expectation: "Expected",
  audience: "For",
  decision: "To decide",
  constraints: "Limits",
  constant: "Held constant",
  margin: "Margin",
  low_definition: "Low",
  passes_per_test: "Passes per test",
};

/** A form that edits a review. */
export function EditForm({ began, ...rest }: Props) {
  const client = useQueryClient();
  return (
    <VersionedForm
      began={began}
      version={(review) => review.version}
      store={(version, changes) => editReview(began.id, version, changes)}
      words={WORDS}
      onSaved={(saved) => {
        client.setQueryData(keys.review(began.id), saved);
        void client.invalidateQueries({ queryKey: keys.plan(began.id) });
      }}
      {...rest}
    />
  );
}
