import { describe, expect, it } from "vitest";
import { titleOf } from "../src/places/standings/Against";
import { dayWords } from "../src/places/standings/day";
import { spread } from "../src/places/standings/OverTime";

describe("a standing", () => {
  it("names the machine where the configuration does not", () => {
    expect(titleOf({ label: "bare bench", system: "Heron", revision: 1 })).toBe("Heron, bare bench");
    expect(titleOf({ label: "Wren at 35 W", system: "Wren", revision: 1 })).toBe("Wren at 35 W");
    expect(titleOf({ label: "Wren at 35 W", system: "Wren", revision: 2 })).toBe("Wren at 35 W, revision 2");
  });

  it("tells the year of a day only where it is another", () => {
    const now = new Date("2026-11-27T12:00:00");
    expect(dayWords("2026-11-03T12:00:00", now)).toBe("3 Nov");
    expect(dayWords("2025-11-03T12:00:00", now)).toBe("3 Nov 2025");
  });

  it("keeps names apart and in their order", () => {
    expect(spread([10, 12, 100])).toEqual([10, 24, 100]);
    const [first, second] = spread([50, 40]);
    expect(second).toBe(40);
    expect(first).toBe(54);
  });
});
