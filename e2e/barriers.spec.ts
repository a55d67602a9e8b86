import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
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

/** The barriers of what a page shows now, by axe. */
async function barriers(page: Page, where: string) {
  const axe = new AxeBuilder({ page }).options({ resultTypes: ["violations"] }).withTags(["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]);
  return (await axe.analyze()).violations.map((v) => `${where}: ${v.id} ${v.nodes[0]?.html}`);
}

// both themes at all three widths take twice as long, and are looked at with ODDTICK_BARRIERS=all
const all = [1280, 640, 320];
const widths = process.env.ODDTICK_BARRIERS === "all" ? { light: all, dark: all } : { light: [1280, 320], dark: [640] };

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
        for (const width of widths[theme]) {
          await page.setViewportSize({ width, height: 800 });
          expect.soft(await barriers(page, `${view} at ${width}`)).toEqual([]);
        }
      }
    });
  }
}

const form = "/sites/ostlewick/forms/join";
const more = ["button", "More actions for Join the association"] as const;

/** What opens above a view, and the controls that open it, one after the other. */
const opened: { view: string; by: (readonly ["button" | "menuitem" | "gridcell", string | RegExp])[]; shows: "dialog" | "menu" }[] = [
  { view: `${form}/cases`, by: [["button", "Search"]], shows: "dialog" },
  { view: `${form}/cases`, by: [["button", "Help"]], shows: "dialog" },
  { view: "/", by: [more], shows: "menu" },
  { view: "/", by: [more, ["menuitem", "Rename …"]], shows: "dialog" },
  { view: "/", by: [more, ["menuitem", "Duplicate …"]], shows: "dialog" },
  { view: "/", by: [more, ["menuitem", "Delete …"]], shows: "dialog" },
  { view: "/sites/ostlewick/settings", by: [["button", "Delete this site …"]], shows: "dialog" },
  { view: `${form}/run`, by: [["button", "Run with options …"]], shows: "dialog" },
  { view: `${form}/run`, by: [["button", "Delete this run …"]], shows: "dialog" },
  { view: `${form}/document`, by: [["button", /^Add/]], shows: "menu" },
];

for (const theme of ["light", "dark"] as const) {
  test(`no dialog and no menu has a barrier, in the ${theme} theme`, async ({ page, demo }) => {
    await demo.hasRun(page);
    await page.evaluate((t) => localStorage.setItem("oddtick.theme", t), theme);
    for (const { view, by, shows } of opened) {
      await page.setViewportSize({ width: 1280, height: 800 });
      await page.goto(demo.address + view);
      await page.waitForLoadState("networkidle");
      for (const [role, name] of by) await page.getByRole(role, { name }).first().click();
      await expect(page.getByRole(shows)).toBeVisible();
      for (const width of widths[theme]) {
        await page.setViewportSize({ width, height: 800 });
        expect.soft(await barriers(page, `${by.at(-1)?.[1]} of ${view} at ${width}`)).toEqual([]);
      }
      await page.keyboard.press("Escape");
      await expect(page.getByRole(shows)).toHaveCount(0);
    }
  });
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
