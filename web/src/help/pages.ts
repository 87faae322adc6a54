/** The pages of the help section: those of `docs/`, read when they are opened. */
const PAGES = import.meta.glob<string>(["../../../docs/*.md", "../../../docs/help/**/*.md"], {
  import: "default",
});

export const CONTENTS: { title: string; pages: [string, string][] }[] = [
  {
    title: "Begin",
    pages: [
      ["help/begin", "What it is"],
      ["help/lenses", "Sheets and lenses"],
      ["glossary", "Words"],
    ],
  },
  {
    title: "How to",
    pages: [
      ["help/how-to/01-first-review", "Make the first review"],
      ["help/how-to/02-type-figures", "Type figures into the matrix"],
      ["help/how-to/03-ask-for-passes", "Have a bench run passes"],
      ["help/how-to/04-set-aside", "Set a pass aside"],
      ["help/how-to/05-another-baseline", "Compare with another configuration"],
      ["help/how-to/06-pin-a-finding", "Pin a finding for the verdict"],
      ["help/how-to/07-note-a-follow-up", "Note what is to be done later"],
      ["help/how-to/08-publish", "Publish a record"],
      ["help/how-to/09-invite", "Invite somebody"],
      ["help/how-to/10-save-a-standing", "Save what a standing shows"],
    ],
  },
  {
    title: "In depth",
    pages: [
      ["findings", "Kinds of findings"],
      ["method", "The method: every formula"],
      ["standings", "Standings, references, retests"],
      ["records", "Records"],
      ["by-hand", "Running by hand"],
      ["bench", "The bench"],
      ["simulation", "Simulated systems"],
      ["analyse", "Computing without a server"],
      ["client", "The API from Python"],
      ["deploy", "A server for a team"],
      ["installation", "Looking after an installation"],
      ["security", "Security"],
    ],
  },
];

/** How a page is read; nothing where there is none of that name. */
export function readerOf(page: string): (() => Promise<string>) | undefined {
  return PAGES[`../../../docs/${page}.md`];
}
