/** Something to do or somewhere to go. */
export interface PaletteAct {
  words: string;
  detail: string;
  path?: string;
  act?: () => void;
}

const go = (words: string, path: string, detail = ""): PaletteAct => ({ words, path, detail });

const PLACES = [
  go("Reviews", "/reviews", "g r"),
  go("Systems", "/systems", "g s"),
  go("Shelf", "/shelf", "g h"),
  go("Workloads", "/workloads", "g w"),
  go("Standings", "/standings", "g t"),
  go("Follow-ups", "/follow-ups", "g f"),
  go("Inbox", "/inbox"),
  go("Help", "/help", "how to do things, and what words mean"),
  go("Your account", "/account", "password, second factor, how pages look"),
];

const LENSES = ["Progress", "Figures", "Versus", "Limits", "Economy"];

/** What can be done from a page, by its address: the sheets and lenses of its review, and every place. */
export function actsAt(path: string, may: (act: string) => boolean): PaletteAct[] {
  const review = /^\/reviews\/(\d+)/.exec(path)?.[1];
  const sheets = review
    ? [
        ...LENSES.map((name, at) =>
          go(`Lens ${name}`, `/reviews/${review}/matrix?lens=${name.toLowerCase()}`, String(at + 1)),
        ),
        ...["Brief", "Findings", "Verdict"].map((name) =>
          go(`${name} of this review`, `/reviews/${review}/${name.toLowerCase()}`),
        ),
      ]
    : [];
  return [
    ...sheets,
    ...PLACES,
    ...(may("edit_review") ? [go("Begin a review step by step", "/first", "five answers")] : []),
    ...(may("manage_people") ? [go("People", "/people", "invite, roles, sign-ins")] : []),
    ...(may("look_after") ? [go("Installation", "/installation", "health, backups, versions")] : []),
  ];
}
