import { expect, test } from "vitest";
import { forgetNotices, keepNotice, readNotices } from "./notices";

test("notices are kept, the newest first and none twice in a row, until they are forgotten", () => {
  keepNotice("Saved.");
  keepNotice("Saved.");
  keepNotice("");
  keepNotice("The run has ended.");
  expect(readNotices().map((n) => n.text)).toEqual(["The run has ended.", "Saved."]);
  for (let i = 0; i < 40; i++) keepNotice(`Row ${i} deleted.`);
  expect(readNotices().length).toBe(30);
  expect(readNotices()[0]?.text).toBe("Row 39 deleted.");
  forgetNotices();
  expect(readNotices()).toEqual([]);
});
