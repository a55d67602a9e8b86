import { execFileSync } from "node:child_process";
import { Demo, expect, signIn, takeIn, test } from "./demo";

const text = "form: orders\ntitle: Seed orders\npage: /orders\nfields:\n  - id: crop\n    label: Crop\n    rules:\n      - length: {max: 20}\n";

test("a form for which no cases can be designed says so in its line, and is mended by its text", async ({ page }) => {
  const demo = await new Demo().start(); // its own, as it is killed
  try {
    await signIn(page, demo.address);
    await takeIn(page, `site: fen\ntitle: Fen Allotments\naddress: http://127.0.0.1:9\n---\n${text}`);
    // as an earlier version may have left it
    const port = /tcp\(127\.0\.0\.1:(\d+)\)/.exec(demo.output)?.[1] ?? "";
    const change = "UPDATE revisions r JOIN forms f ON f.id = r.form_id SET r.source = REPLACE(r.source, 'max: 20', 'max: 2000000000') WHERE f.ident = 'orders'";
    execFileSync("mariadb", ["--no-defaults", "-h127.0.0.1", `-P${port}`, "-uroot", "oddtick", "-e", change]);
    await demo.stop("SIGKILL");
    await demo.start();
    await page.goto(demo.address); // the session is kept
    await expect(page.getByText(/No cases can be designed: .*lengths beyond 1000000/)).toBeVisible();
    await expect(page.getByRole("link", { name: "Join the association" })).toBeVisible();
    await page.getByRole("link", { name: "Seed orders" }).click();
    await expect(page.getByRole("heading", { name: "The form orders must be mended" })).toBeVisible();
    const box = page.getByRole("textbox", { name: "YAML of the form" });
    const shown = async () => (await box.locator(".cm-line").allTextContents()).join("\n");
    await expect(box).toContainText("2000000000"); // the editor is loaded late
    await box.fill((await shown()).replace("2000000000", "20000000"));
    await page.getByRole("button", { name: "Save" }).click();
    await expect(page.getByRole("alert")).toContainText("lengths beyond 1000000");
    await box.fill((await shown()).replace("20000000", "30"));
    await page.getByRole("button", { name: "Save" }).click();
    await expect(page.getByRole("heading", { name: "Seed orders" })).toBeVisible();
  } finally {
    await demo.remove();
  }
});

test("the second of two who edit a case is told what the first has done", async ({ page, demo, context }) => {
  await signIn(page, demo.address);
  const id = await page.evaluate(async () => {
    const view = await (await fetch("/api/sites/ostlewick/forms/help/cases")).json();
    return view.order[0];
  });
  const cases = `${demo.address}/sites/ostlewick/forms/help/cases?case=${encodeURIComponent(id)}`;
  const second = await context.newPage();
  for (const who of [page, second]) {
    await who.goto(cases);
    await expect(who.getByRole("button", { name: "Skip this case …" })).toBeVisible(); // both have the case as it was
  }
  for (const [who, why] of [
    [page, "the page is being rewritten"],
    [second, "not now"],
  ] as const) {
    await who.getByRole("button", { name: "Skip this case …" }).click();
    await who.getByLabel("Why this case is skipped").fill(why);
    await who.keyboard.press("Enter");
    if (who === page) await expect(page.getByText("Skipped:")).toContainText("rewritten");
  }
  await expect(second.getByRole("alert")).toContainText("skipped: the page is being rewritten, saved by tester");
  await page.getByRole("button", { name: "Undo edits" }).click();
  await expect(page.getByText("Skipped:")).toBeHidden();
});

test("a view that cannot be drawn says so, and leaves the way to the others", async ({ page, demo }) => {
  await signIn(page, demo.address);
  await page.route("**/api/sites/ostlewick/forms/join/runs/*/findings*", (route) => route.fulfill({ json: { run: 1, findings: 7 } }));
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/findings`);
  await expect(page.getByRole("heading", { name: "This view could not be shown" })).toBeVisible();
  await expect(page.getByRole("heading", { name: "Join the association" })).toBeVisible();
  await page.getByRole("link", { name: /^Rules/ }).click();
  await expect(page.getByRole("heading", { name: "This view could not be shown" })).toHaveCount(0);
  await page.unroute("**/api/sites/ostlewick/forms/join/runs/*/findings*");
  await page.getByRole("link", { name: /^Findings/ }).click();
  await page.getByRole("button", { name: "Reload" }).click();
  await expect(page.getByRole("heading", { name: "This view could not be shown" })).toHaveCount(0);
});
