import { useDraft } from "../../design/useDraft";
import { useSession } from "../../api/session";
import type { Hands } from "./draft";

const NOBODY_ELSE: Hands = { ranBy: "", helpedBy: "" };

/** Whose hands the passes are in that are brought in here; kept in this browser, for each who signs in. */
export function useHands(): [Hands, (hands: Hands) => void] {
  const [hands, setHands] = useDraft(`hands-${useSession().username}`, NOBODY_ELSE);
  return [hands, setHands];
}
