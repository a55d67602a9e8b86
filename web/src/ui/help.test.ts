import { expect, test } from "vitest";
import { helpFor } from "./help";

test("every view explains itself with an example", () => {
  const form = "/sites/ost/forms/join";
  const views = ["/", "/may-it-ship", "/account", "/sites/ost/settings", "/sites/ost/document", "/sites/ost/access"];
  const ofForm = ["form", "document", "rules", "try", "cases", "run", "case", "by-hand", "findings", "may-it-ship"];
  for (const path of [...views, "/sites/ost/journeys", ...ofForm.map((v) => `${form}/${v}`)]) {
    expect(helpFor(path)?.about, path).toMatch(/\.$/);
    expect(helpFor(path)?.example, path).toMatch(/[.]$/);
  }
  expect(helpFor("/sites/ost/none")).toBeUndefined();
  expect(new Set(ofForm.map((v) => helpFor(v)?.about)).size).toBe(ofForm.length);
});
