import AxeBuilder from "@axe-core/playwright";
import { expect, signIn, test } from "./demo";

const views = [
  "/",
  "/account",
  "/may-it-ship",
  "/sites/ostlewick/may-it-ship",
  "/sites/ostlewick/settings",
  "/sites/ostlewick/document",
  "/sites/ostlewick/access",
  "/sites/ostlewick/journeys",
  ...[
    "form",
    "form?from=page",
    "form?from=tables",
    "form?from=trace",
    "form?from=list",
    "form?from=revisions",
    "document",
    "document?as=text",
    "rules",
    "rules?view=layers",
    "try",
    "cases",
    "cases?open=username,plots&odd=1",
    "cases?view=list",
    "cases?view=combinations",
    "cases?view=coverage&depth=quick",
    "cases?view=decisions",
    "cases?view=access",
    "cases?view=sheet",
    "run",
    "findings",
    "may-it-ship",
    "case?id=join%2Fusername.length.max%2B1%2Fhttp",
  ].map((v) => `/sites/ostlewick/forms/join/${v}`),
];

test.beforeEach(async ({ page, demo }) => {
  await signIn(page, demo.address);
});

// a few views a test, so that none takes long where the machine is busy
const portions = [views.slice(0, 10), views.slice(10, 20), views.slice(20)];

for (const theme of ["light", "dark"] as const) {
  for (const [i, portion] of portions.entries()) {
    test(`no view has a barrier, in the ${theme} theme, part ${i + 1} of ${portions.length}`, async ({ page, demo }) => {
      await demo.hasRun(page);
      await page.evaluate((t) => localStorage.setItem("oddtick.theme", t), theme);
      for (const view of portion) {
        await page.goto(demo.address + view);
        await page.waitForLoadState("networkidle");
        // the dark theme differs in its colors only
        for (const width of theme === "light" ? [1280, 320] : [1280]) {
          await page.setViewportSize({ width, height: 800 });
          const axe = new AxeBuilder({ page }).options({ resultTypes: ["violations"] });
          const found = await (theme === "light" ? axe.withTags(["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa", "best-practice"]) : axe.withRules(["color-contrast"])).analyze();
          expect.soft(found.violations.map((v) => `${view} at ${width}: ${v.id} ${v.nodes[0]?.html}`)).toEqual([]);
        }
      }
    });
  }
}

test("views keep within the page from 320 to 2560 px", async ({ page, demo }) => {
  for (const view of views) {
    await page.goto(demo.address + view);
    await page.waitForLoadState("networkidle");
    for (const width of [320, 640, 1024, 1280, 2560]) {
      await page.setViewportSize({ width, height: 800 });
      const over = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
      expect(over, `${view} at ${width}`).toBeLessThanOrEqual(0);
    }
  }
});
