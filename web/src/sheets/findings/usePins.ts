import { api, body } from "../../api/client";
import { useReview } from "../../api/review";
import { useAct } from "../../design/useAct";
import type { Finding } from "./listed";

export interface Pins {
  toggle: (finding: Finding) => Promise<unknown>;
  note: (finding: Finding, note: string) => Promise<unknown>;
  /** Move a pinned finding up (-1) or down (1) among the pinned. */
  move: (finding: Finding, by: number) => Promise<unknown>;
  seen: (pin: number) => Promise<unknown>;
  unpin: (pin: number) => Promise<unknown>;
}

/** What can be done with pins. */
export function usePins(all: Finding[]): Pins {
  const review = useReview();
  const act = useAct();
  const path = { review: review.id };
  const post = async (key: string, note: string) =>
    body(await api.POST("/api/reviews/{review}/pins", { params: { path }, body: { key, note } }));
  const remove = async (pin: number) => api.DELETE("/api/pins/{pin}", { params: { path: { pin } } });
  const unpin = (pin: number) => act(() => remove(pin), { made: "findings" });
  return {
    unpin,
    toggle: (finding) => {
      const { pin } = finding;
      if (!pin) return act(() => post(finding.key, ""), { made: "findings" });
      return act(() => remove(pin.id), {
        said: "Unpinned.",
        undo: () => post(finding.key, pin.note),
        made: "findings",
      });
    },
    note: (finding, note) => act(() => post(finding.key, note), { said: "Noted.", made: "findings" }),
    move: (finding, by) => {
      const order = all
        .flatMap((one) => (one.pin ? [one.pin] : []))
        .sort((a, b) => a.position - b.position)
        .map((pin) => pin.id);
      const at = order.indexOf(finding.pin?.id ?? 0);
      const to = at + by;
      if (at < 0 || to < 0 || to >= order.length) return Promise.resolve();
      order.splice(to, 0, ...order.splice(at, 1));
      return act(
        async () => body(await api.PUT("/api/reviews/{review}/pins", { params: { path }, body: { order } })),
        { made: "findings" },
      );
    },
    seen: (pin) =>
      act(async () => api.PUT("/api/pins/{pin}/seen", { params: { path: { pin } } }), { made: "findings" }),
  };
}
