import { Dialog } from "../design/Dialog";
import { usePreferences } from "../api/preferences";
import { Button } from "../design/Button";
import { TERMS } from "../design/terms";
import { HINTS } from "../first/hints";

const GROUPS: { title: string; keys: [string, string][] }[] = [
  {
    title: "Everywhere",
    keys: [
      ["?", "this sheet"],
      ["g then r", "reviews"],
      ["g then s", "systems"],
      ["g then h", "shelf"],
      ["g then w", "workloads"],
      ["g then t", "standings"],
      ["g then f", "follow-ups"],
      ["/", "search in the list"],
      ["Ctrl K", "go anywhere, find or do anything"],
    ],
  },
  {
    title: "In the matrix",
    keys: [
      ["1  2  3  4  5", "lens: Progress, Figures, Versus, Limits, Economy"],
      ["arrows", "move from cell to cell"],
      ["Enter", "open the cell"],
      ["Space", "lay one more cell over the first, up to six"],
      ["Escape", "close the cell pane"],
      ["m", "the whole matrix beside an open cell, or its rows only"],
      ["b", "compare with this cell's configuration"],
      ["p", "ask for passes in this cell"],
      ["i", "import a file of frame times into this cell"],
      ["t", "type figures straight into the cells; Escape ends it"],
    ],
  },
  {
    title: "In a review",
    keys: [["c", "comment, and read the talk; Escape closes it"]],
  },
  {
    title: "In the findings",
    keys: [
      ["↑  ↓", "the finding before, the next one"],
      ["1  2  …  0", "findings of one kind; 0 for all"],
      ["p", "pin the chosen finding, or unpin it"],
      ["Enter", "open the cells that it rests on"],
    ],
  },
  {
    title: "In the cell pane",
    keys: [
      [",  .", "pass before, pass after"],
      ["x", "set the shown pass aside, or take it back"],
      ["a", "lay all passes over one another, or one alone"],
      ["v", "next view: trace, distribution, limits, notes"],
      ["+  −", "zoom in, zoom out"],
      ["[  ]", "move the stretch in sight"],
      ["0", "the whole run"],
    ],
  },
];

/** All keys, and the words that may need one, under `?`. */
export function KeysSheet({ onClose }: { onClose: () => void }) {
  const { preferences, set } = usePreferences();
  return (
    <Dialog open onClose={onClose} title="Keys and words" wide>
      <Button kind="link" className="no-print mb-3 text-note" onClick={() => window.print()}>
        print this sheet
      </Button>
      <div className="grid gap-5 sm:grid-cols-2">
        {GROUPS.map((group) => (
          <section key={group.title}>
            <h3 className="mb-1 text-note font-semibold">{group.title}</h3>
            <dl className="grid grid-cols-[90px_1fr] gap-y-1 text-note">
              {group.keys.map(([key, words]) => (
                <div key={key} className="contents">
                  <dt className="font-semibold">{key}</dt>
                  <dd>{words}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
      <h3 className="mt-5 mb-1 text-note font-semibold">
        What sheets are for{" "}
        {preferences && preferences.hints_read.length > 0 && (
          <Button kind="link" className="font-normal" onClick={() => void set({ hints_read: [] })}>
            show it on the sheets again
          </Button>
        )}
      </h3>
      <ul className="flex flex-col gap-1 text-note">
        {Object.values(HINTS).map((one) => (
          <li key={one.title}>
            <strong>{one.title}</strong> {one.words}
          </li>
        ))}
      </ul>
      <h3 className="mt-5 mb-1 text-note font-semibold">Words</h3>
      <dl className="grid grid-cols-[90px_1fr] gap-y-1 text-note">
        {Object.entries(TERMS).map(([name, words]) => (
          <div key={name} className="contents">
            <dt className="font-semibold">{name}</dt>
            <dd>{words}</dd>
          </div>
        ))}
      </dl>
    </Dialog>
  );
}
