const WAYS = [
  [
    "Typing",
    "Read the figure off the screen and type it straight into its cell, like in a ledger; tables are pasted.",
  ],
  [
    "Files",
    "Drop a file of frame times on a cell, or bring a whole folder in as a ZIP; figures and traces are made of them.",
  ],
  [
    "A bench",
    "A small program on the machine runs the workload by itself, and records frames and sensors. An admin connects it under Systems.",
  ],
] as const;

/** The three ways in which figures come into a review. */
export function WaysIn() {
  return (
    <dl className="grid gap-4 text-note sm:grid-cols-3">
      {WAYS.map(([name, words]) => (
        <div key={name}>
          <dt className="font-semibold">{name}</dt>
          <dd>{words}</dd>
        </div>
      ))}
    </dl>
  );
}
