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
  { label: "What is missing", Look: CompletenessDialog },
  { label: "Pairs of tests", Look: PairsDialog },
  { label: "How much memory is enough", Look: EnoughDialog },
  { label: "Specified against measured", Look: SpecifiedDialog },
  { label: "What recording costs", Look: RecorderDialog },
  { label: "Pictures beside each other", Look: PicturesDialog },
];

/** Looks at the evidence of the whole review. */
export function EvidenceMenu() {
  const review = useReview();
  const [chosen, setChosen] = useState<(typeof LOOKS)[number] | null>(null);
  const items = [
    ...LOOKS.map((one) => ({ label: one.label, act: () => setChosen(one) })),
    { label: "Figures as CSV", act: () => window.location.assign(`/api/reviews/${review.id}/figures.csv`) },
  ];
  return (
    <>
      <Menu label="Look at the evidence" items={items} trigger={<Button>Evidence</Button>} />
      {chosen && <chosen.Look onClose={() => setChosen(null)} />}
    </>
  );
}
