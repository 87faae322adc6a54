import { createContext, useContext } from "react";

/** What a comment is about. */
export interface Thing {
  about: "review" | "cell" | "pass" | "finding" | "sentence";
  test?: number;
  column?: number;
  owner?: string;
  key?: string;
  /** As it is called above the comment. */
  words: string;
}

export interface Talking {
  /** Opens the talk; with a thing, for a comment about it. */
  open: (thing?: Thing) => void;
}

const Context = createContext<Talking | null>(null);
export const TalkingProvider = Context.Provider;

/** Opening the talk of the review; null outside of a review. */
export function useTalking(): Talking | null {
  return useContext(Context);
}
