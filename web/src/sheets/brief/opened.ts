/** What of a brief is open to be changed. */
export type Opened = "edit" | "column" | "tests" | "paste" | null;
