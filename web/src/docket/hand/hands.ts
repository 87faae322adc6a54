import { useDraft } from "../../design/useDraft";
import type { Hands } from "./draft";

const NOBODY_ELSE: Hands = { ranBy: "", helpedBy: "" };

/** Whose hands the passes are in that are brought in here; kept in this browser until somebody else is named. */
export function useHands(): [Hands, (hands: Hands) => void] {
  const [hands, setHands] = useDraft("hands", NOBODY_ELSE);
  return [hands, setHands];
}
