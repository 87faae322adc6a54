import type { PassShape } from "../../../api/client";
import { columnOf, testOf } from "../../../api/lookup";
import { useReview } from "../../../api/review";
import { Button } from "../../../design/Button";
import { Menu } from "../../../design/Menu";
import { useTalking } from "../../../talk/talking";
import type { CellPlace } from "../place";

/** Talk about the cell, or about the pass that is shown. */
export function TalkOf({
  cell,
  test,
  pass,
}: {
  cell: CellPlace;
  test: ReturnType<typeof testOf>;
  pass: PassShape | undefined;
}) {
  const review = useReview();
  const talking = useTalking();
  const where = `${[test?.name, test?.short].filter(Boolean).join(", ")} on ${columnOf(review, cell.column)?.label}`;
  const ofCell = () => talking?.open({ about: "cell", test: cell.test, column: cell.column, words: where });
  if (!pass) {
    return (
      <Button kind="link" onClick={ofCell}>
        Talk
      </Button>
    );
  }
  return (
    <Menu
      label="Talk about this cell or the shown pass"
      trigger={<Button kind="link">Talk</Button>}
      items={[
        { label: "About this cell", act: ofCell },
        {
          label: `About pass ${pass.number}`,
          act: () =>
            talking?.open({ about: "pass", owner: pass.id, words: `pass ${pass.number} of ${where}` }),
        },
      ]}
    />
  );
}
