import { describe, expect, it } from "vitest";
import { ago, count, moment } from "./time";

describe("time", () => {
  it("writes dates as year-month-day", () => {
    expect(moment("2026-03-07T09:05:00")).toBe("2026-03-07 09:05");
  });
  it("says how long ago in few words", () => {
    const now = new Date("2026-11-25T12:00:00Z").getTime();
    expect(ago("2026-11-25T11:59:30Z", now)).toBe("just now");
    expect(ago("2026-11-25T11:57:00Z", now)).toBe("3 min ago");
    expect(ago("2026-11-25T07:00:00Z", now)).toBe("5 h ago");
    expect(ago("2026-11-25T12:00:05Z", now)).toBe("just now");
    expect(ago("2026-10-01T12:00:00Z", now)).toMatch(/^2026-10-01$/);
  });
  it("counts one and many", () => {
    expect(count(1, "case")).toBe("1 case");
    expect(count(0, "case")).toBe("0 cases");
    expect(count(2, "box", "boxes")).toBe("2 boxes");
  });
});
