import { useState } from "react";
import type { MatrixShape, ReviewShape } from "../../../api/client";
import { Button } from "../../../design/Button";
import { Menu } from "../../../design/Menu";
import { CompletenessDialog } from "./CompletenessDialog";
import { EnoughDialog } from "./EnoughDialog";
import { PairsDialog } from "./PairsDialog";
import { RecorderDialog } from "./RecorderDialog";
import { SpecifiedDialog } from "./SpecifiedDialog";

interface Props {
  review: ReviewShape;
  matrix: MatrixShape;
  may: (act: string) => boolean;
}

const LOOKS = [
  "What is missing",
  "Pairs of tests",
  "How much memory is enough",
  "Specified against measured",
  "What recording costs",
] as const;
type Look = (typeof LOOKS)[number];

/** Looks at the evidence of the whole review. */
export function EvidenceMenu({ review, matrix, may }: Props) {
  const [look, setLook] = useState<Look | null>(null);
  const close = () => setLook(null);
  const items = [
    ...LOOKS.map((label) => ({ label, act: () => setLook(label) })),
    { label: "Figures as CSV", act: () => window.location.assign(`/api/reviews/${review.id}/figures.csv`) },
  ];
  return (
    <>
      <Menu label="Look at the evidence" items={items} trigger={<Button>Evidence</Button>} />
      {look === "What is missing" && <CompletenessDialog review={review} may={may} onClose={close} />}
      {look === "Pairs of tests" && <PairsDialog review={review} matrix={matrix} may={may} onClose={close} />}
      {look === "How much memory is enough" && <EnoughDialog review={review} onClose={close} />}
      {look === "Specified against measured" && <SpecifiedDialog review={review} onClose={close} />}
      {look === "What recording costs" && <RecorderDialog review={review} may={may} onClose={close} />}
    </>
  );
}
