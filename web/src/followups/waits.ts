/** What a follow-up can wait for, in words. */
export const WAITS: Record<string, string> = {
  day: "a day",
  part: "a part",
  driver: "a driver or an image",
  version: "a version of a workload",
  person: "a person",
};
