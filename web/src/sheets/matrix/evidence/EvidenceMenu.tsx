import { useState } from "react";
import { Button } from "../../../design/Button";
import { Menu } from "../../../design/Menu";
import { CompletenessDialog } from "./CompletenessDialog";
import { EnoughDialog } from "./EnoughDialog";
import { PairsDialog } from "./PairsDialog";
import { PicturesDialog } from "./PicturesDialog";
import { RecorderDialog } from "./RecorderDialog";
import { SpecifiedDialog } from "./SpecifiedDialog";
import { useReview } from "../../../api/review";

const LOOKS = [
  "What is missing",
  "Pairs of tests",
  "How much memory is enough",
  "Specified against measured",
  "What recording costs",
  "Pictures beside each other",
] as const;
type Look = (typeof LOOKS)[number];

/** Looks at the evidence of the whole review. */
export function EvidenceMenu() {
  const review = useReview();
  const [look, setLook] = useState<Look | null>(null);
  const close = () => setLook(null);
  const items = [
    ...LOOKS.map((label) => ({ label, act: () => setLook(label) })),
    { label: "Figures as CSV", act: () => window.location.assign(`/api/reviews/${review.id}/figures.csv`) },
  ];
  return (
    <>
      <Menu label="Look at the evidence" items={items} trigger={<Button>Evidence</Button>} />
      {look === "What is missing" && <CompletenessDialog onClose={close} />}
      {look === "Pairs of tests" && <PairsDialog onClose={close} />}
      {look === "How much memory is enough" && <EnoughDialog onClose={close} />}
      {look === "Specified against measured" && <SpecifiedDialog onClose={close} />}
      {look === "Pictures beside each other" && <PicturesDialog onClose={close} />}
      {look === "What recording costs" && <RecorderDialog onClose={close} />}
    </>
  );
}
