import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
import { Demo, expect, signIn, takeIn, test, whileItRuns } from "./demo";

const join = "/sites/ostlewick/forms/join";

test("a whole site is run with one key, and a lead reads whether it may ship", async ({ page }) => {
  test.setTimeout(1_200_000);
  // a demo of its own: what others say of its findings would count
  const demo = await new Demo().start();
  try {
    await wholeSite(page, demo);
  } finally {
    await demo.remove();
  }
});

async function wholeSite(page: Page, demo: Demo) {
  await signIn(page, demo.address);
  const site = page.getByRole("region", { name: "Ostlewick Allotments" });
  await site.getByRole("link", { name: "Book a tool" }).focus();
  await page.keyboard.press("Control+Enter");
  await expect(site.getByRole("progressbar", { name: /Progress of the run/ })).toBeVisible();
  await expect(site.getByText(/part \d+ of 10/)).toBeVisible();
  await page.reload(); // it goes on
  await expect(site.getByRole("button", { name: "Stop" })).toBeVisible();
  await expect(site.getByRole("button", { name: /Run everything/ })).toBeVisible({ timeout: 800_000 });
  await site.getByRole("link", { name: /^not ready to ship: \d of 10 parts not ready/ }).click();

  await expect(page.getByRole("heading", { level: 1 })).toHaveText("May Ostlewick Allotments ship?");
  const parts = page.getByRole("article");
  await expect(parts).toHaveCount(10);
  await expect(parts.first(), "what stands in the way comes first").toContainText("not ready to ship");
  const form = page.getByRole("article", { name: "Join the association" });
  await expect(form).toContainText("not ready to ship: 4 major findings, 1 trivial finding");
  await form.getByRole("link", { name: /stored cut to 20 characters/ }).click();
  await expect(page.getByRole("heading", { level: 2 })).toContainText("Username of 21 characters accepted");
  await page.getByLabel("State").selectOption("known");
  await page.getByLabel("Known until").fill("2999-01-31");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText("known, until 2999-01-31").first()).toBeVisible();
  await page.getByRole("link", { name: "May it ship?" }).click();
  await expect(page.getByText("not ready to ship: 3 major findings, 1 trivial finding")).toBeVisible();
  await expect(page.getByText("until 2999-01-31")).toBeVisible();
  await expect(page.getByRole("heading", { name: "Not tested or not observed" })).toBeVisible();
  for (const address of ["/may-it-ship", "/sites/ostlewick/may-it-ship", `${join}/may-it-ship`, "/"]) {
    await page.goto(demo.address + address);
    await page.waitForLoadState("networkidle");
    const found = await new AxeBuilder({ page }).withTags(["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa", "best-practice"]).analyze();
    expect(found.violations.map((v) => `${address}: ${v.id} ${v.nodes[0]?.html}`)).toEqual([]);
  }
}

test("forms are renamed, copied, moved and deleted, by keyboard; a site goes once its title is typed", async ({ page, demo }) => {
  await signIn(page, demo.address);
  await takeIn(
    page,
    `site: cellar\ntitle: The cellar\naddress: ${demo.practice}\n---\nform: jars\ntitle: Jars\npage: /join\nfields: [{name: jar, label: Jar, rules: [{length: {max: 9}}]}]\n`,
  );
  await takeIn(page, `site: attic\ntitle: The attic\naddress: ${demo.practice}\n`);
  await page.goto(demo.address);
  const cellar = page.getByRole("region", { name: "The cellar" });
  const choose = async (of: string, item: string) => {
    await page.getByRole("button", { name: `More actions for ${of}`, exact: true }).press("Enter");
    await page.getByRole("menuitem", { name: item }).press("Enter");
  };
  await choose("Jars", "Rename");
  await page.getByRole("dialog").getByLabel("Title").fill("Preserves");
  await page.keyboard.press("Enter");
  await expect(cellar.getByRole("link", { name: "Preserves" })).toBeVisible();
  await choose("Preserves", "Duplicate");
  await page.keyboard.press("Escape");
  await expect(page.getByRole("button", { name: "More actions for Preserves", exact: true })).toBeFocused();
  await choose("Preserves", "Duplicate");
  await expect(page.getByRole("dialog").getByLabel("Title")).toHaveValue("Preserves (copy)");
  await page.getByRole("dialog").getByLabel("Title").fill("Bottles");
  await page.keyboard.press("Enter");
  await expect(cellar.getByRole("link", { name: "Bottles" })).toBeVisible();
  await choose("Bottles", "Move");
  await page.getByLabel("To site").selectOption("The attic");
  await page.getByRole("button", { name: "Move", exact: true }).press("Enter");
  await expect(page.getByRole("region", { name: "The attic" }).getByRole("link", { name: "Bottles" })).toBeVisible();
  await choose("Preserves", "Delete");
  await expect(page.getByRole("dialog", { name: "Delete Preserves?" })).toContainText("This also deletes: 2 revisions, 0 runs.");
  await page.getByRole("button", { name: "Delete", exact: true }).press("Enter");
  await expect(cellar.getByRole("link", { name: "Preserves" })).toHaveCount(0);

  // found by its field, with the keyboard alone
  await page.keyboard.press("/");
  await page.getByRole("combobox", { name: /Search/ }).fill("jar bottles");
  await expect(page.getByRole("option", { name: /Jar.*field/ })).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(/forms\/bottles\/rules\?field=jar/);

  for (const [id, title] of [
    ["cellar", "The cellar"],
    ["attic", "The attic"],
  ]) {
    await page.goto(`${demo.address}/sites/${id}/settings`);
    await page.getByRole("button", { name: "Delete this site" }).click();
    const dialog = page.getByRole("dialog");
    await expect(dialog.getByRole("button", { name: "Delete" })).toBeDisabled();
    await dialog.getByRole("textbox").fill(title ?? "");
    await dialog.getByRole("button", { name: "Delete" }).click();
    await expect(page.getByRole("heading", { name: "Sites" })).toBeVisible();
    await expect(page.getByRole("region", { name: title })).toHaveCount(0);
  }
});

test("a run is deleted once that is confirmed", async ({ page, demo }) => {
  await signIn(page, demo.address);
  await demo.hasRun(page);
  await page.goto(`${demo.address}${join}/cases?depth=quick`);
  await expect(page.getByRole("button", { name: /^Run/ }).first()).toBeEnabled();
  await page.keyboard.press("Control+Enter");
  await page.waitForURL("**/run");
  const said = page.getByText(/Run \d+ finished/);
  await expect(said).toBeVisible(whileItRuns);
  const number = /Run (\d+)/.exec(await said.innerText())?.[1];
  await page.getByRole("button", { name: "Delete this run" }).click();
  await expect(page.getByRole("dialog", { name: `Delete run ${number}?` })).toContainText("It cannot be undone.");
  await page.getByRole("button", { name: "Delete", exact: true }).click();
  await expect(page.getByText(`Run ${Number(number) - 1} finished`)).toBeVisible();
});
