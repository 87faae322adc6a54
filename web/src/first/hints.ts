interface HintText {
  title: string;
  words: string;
  keys: [string, string][];
}

/** Said once on each sheet, and found again under `?`. */
export const HINTS = {
  brief: {
    title: "The brief",
    words:
      "is the plan: the question, what is varied, the configurations with every difference between them, the tests, and what it takes.",
    keys: [
      ["g then r", "back to the reviews"],
      ["c", "talk about it"],
      ["Ctrl K", "go anywhere"],
    ],
  },
  matrix: {
    title: "The matrix",
    words:
      "holds every test on every configuration. A lens changes what its cells show; an open cell shows its passes below.",
    keys: [
      ["1 … 5", "lens"],
      ["Enter", "open a cell"],
      ["t", "type figures in"],
    ],
  },
  docket: {
    title: "The docket",
    words:
      "is the order of work: the passes still owed, so that machines are opened as rarely as possible, with the steps of each change.",
    keys: [
      ["p", "ask for passes"],
      ["1", "progress"],
      ["?", "all keys"],
    ],
  },
  findings: {
    title: "Findings",
    words:
      "are sentences that the evidence carries, with their uncertainty. Pin what belongs in the verdict; what is undecided says what would settle it.",
    keys: [
      ["↑ ↓", "from one to the next"],
      ["p", "pin"],
      ["Enter", "its cells"],
    ],
  },
} satisfies Record<string, HintText>;

export type HintName = keyof typeof HINTS;
