import { readFileSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import type { Page } from "@playwright/test";
import { Demo, expect, signIn, test } from "./demo";

const form = "/sites/ostlewick/forms/join";
// a demo of its own: these views list earlier runs
let demo: Demo;
test.describe.configure({ mode: "serial" });
test.beforeAll(async () => {
  demo = await new Demo().start();
});
test.afterAll(async () => {
  await demo.remove();
});

const update = process.env.ODDTICK_UPDATE === "1";

/** What a screen reader is told of a view, without what is new in each run. */
async function heard(page: Page, of: string): Promise<string> {
  const tree = await page.locator(of).ariaSnapshot();
  return `${tree
    .replace(/\b[a-z]+-[a-z0-9]{6,}(@example\.test)?/g, "VALUE$1")
    .replace(/Maple-row-\w+-42/g, "SECRET")
    .replace(/\bOS-\d+\b/g, "OS-NUMBER")
    .replace(/\$argon2id\S+/g, "HASH")
    .replace(/127\.0\.0\.1:\d+/g, "HOST")
    .replace(/\d{4}-\d\d-\d\d \d\d:\d\d(:\d\d(\.\d+)?)?/g, "TIME")
    .replace(/\b(19|20|29)\d\d-\d\d-\d\d\b/g, "DAY")
    .replace(/just now|\d+ min ago/g, "AGO")
    .replace(/\b[Rr]un \d+\b/g, "run N")
    .replace(/row \d+/g, "row N")}\n`;
}

for (const [name, address, of] of [
  ["cases", "cases?depth=quick", "main"],
  ["run", "run", "main"],
  ["findings", "findings", "body"],
] as const) {
  test(`what is heard of ${name} is as it was kept`, async ({ page }, info) => {
    await signIn(page, demo.address);
    await demo.hasRun(page);
    await page.goto(`${demo.address}${form}/${address}`);
    await page.waitForLoadState("networkidle");
    await expect(page.locator(of).first()).toBeVisible();
    const now = await heard(page, of);
    const file = join(dirname(info.file), "heard", `${name}.yaml`);
    if (update) writeFileSync(file, now);
    expect(now).toBe(readFileSync(file, "utf8"));
  });
}
