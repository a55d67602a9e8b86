import { expect, signIn, test, whileItRuns } from "./demo";

test.beforeEach(async ({ page, demo }) => {
  await signIn(page, demo.address);
});

test("the keyboard leads from tick to tick, to the case and back", async ({ page, demo }) => {
  await demo.hasRun(page);
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/cases`);
  const scales = page.getByRole("grid", { name: /Scales/ });
  await scales.focus();
  await page.keyboard.press("ArrowRight");
  const blank = page.getByRole("button", { name: "Username, blank, expected rejected by the server: as expected", exact: true });
  await expect(blank).toHaveAttribute("aria-pressed", "true");
  await expect(blank, "the focus goes along").toBeFocused();
  await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("button", { name: /Username, spaces, / })).toHaveAttribute("aria-pressed", "true");
  await page.keyboard.press("ArrowDown");
  await expect(page.getByRole("button", { name: /^E-mail, .*/, pressed: true })).toBeVisible();
  // the arrow's new place comes with the address, which a key that follows at once may be ahead of
  await expect(async () => {
    await page.keyboard.press("Home");
    await expect(page.getByRole("button", { name: /^E-mail, blank, .*: as expected/ })).toHaveAttribute("aria-pressed", "true", { timeout: 1_000 });
  }).toPass({ timeout: 15_000 });
  await page.keyboard.press("o");
  await expect(page.getByRole("button", { pressed: true, name: /: odd, E-mail stored with other capitals/ })).toBeFocused();
  await expect(page.getByRole("complementary", { name: "Evidence" }).getByRole("heading", { level: 2 })).toHaveText(/plot_holders.mail/);
  const headline = await page.getByRole("complementary", { name: "Evidence" }).getByRole("heading", { level: 2 }).innerText();
  const address = page.url();
  await page.reload();
  await expect(page.getByRole("complementary", { name: "Evidence" }).getByRole("heading", { level: 2 })).toHaveText(headline);
  await scales.focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("button", { name: "Run only this case" })).toBeVisible();
  await expect(page.getByRole("heading", { level: 2 })).toHaveText(headline);
  await page.keyboard.press("Escape");
  await expect(page).toHaveURL(address);
});

test("the question mark explains the view and lists all keys, Escape closes them", async ({ page }) => {
  await page.keyboard.press("?");
  const help = page.getByRole("dialog", { name: "Help and keys" });
  await expect(help.getByRole("heading", { name: "About this view" })).toBeVisible();
  await expect(help).toContainText("All forms of all sites");
  await page.keyboard.press("Escape");
  await expect(page.getByRole("dialog")).toHaveCount(0);
});

test("a run fills while one looks, goes on over a reload, and can be stopped", async ({ page, demo }) => {
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/cases?depth=thorough`);
  await page.getByRole("button", { name: /^Run these/ }).click();
  await page.waitForURL("**/run");
  await page.reload();
  // the run may end before the click; that a run stops when told to is held by the server's own tests
  await page
    .getByRole("button", { name: "Stop" })
    .click({ timeout: 2_000 })
    .catch(() => undefined);
  const ended = page.getByText(/Run \d+ (stopped|finished)/);
  await expect(ended).toBeVisible(whileItRuns);
  const number = Number(/Run (\d+)/.exec(await ended.innerText())?.[1]);
  await page.getByRole("button", { name: "Run again" }).click();
  await expect(page.getByText(new RegExp(`Run ${number + 1} finished, (\\d+) of \\1 cases`))).toBeVisible(whileItRuns);
});

test("one case can be run alone", async ({ page, demo }) => {
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/case?id=join%2Fplots.range.max%2Fhttp`);
  await page.getByRole("button", { name: "Run only this case" }).click();
  await expect(page.getByText(/Run \d+ finished, 1 of 1 cases, 0 odd/)).toBeVisible();
});

test("a run can be taken away as CSV, JUnit XML and JSON", async ({ page, demo }) => {
  await demo.hasRun(page);
  await page.getByRole("link", { name: /^Findings/ }).click();
  for (const [name, ending] of [
    ["CSV", "csv"],
    ["JUnit XML", "xml"],
    ["JSON", "json"],
  ] as const) {
    const download = page.waitForEvent("download");
    await page.getByRole("link", { name }).click();
    expect((await download).suggestedFilename()).toMatch(new RegExp(`^join-run-\\d+\\.${ending}$`));
  }
});

test("what a site sends is shown as text, never as a page", async ({ page, demo }) => {
  await demo.hasRun(page);
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/case?id=join%2Fusername.blank%2Fhttp`);
  await page.getByText(/^POST \/join → 422/).click();
  const answer = page.locator("pre").filter({ hasText: "<!doctype html>" });
  await expect(answer).toContainText('<p class="error" id="username-error-0">Choose a username.</p>');
  await expect(page.locator("main form, main iframe")).toHaveCount(0);
  const request = page.locator("pre").filter({ hasText: "Content-Type: application/x-www-form-urlencoded" });
  await expect(request).toContainText("username=&e_mail=");
  await expect(request).toContainText("Cookie: ostlewick=…");
});

test("a depth is part of the address and changes the cases", async ({ page, demo }) => {
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/cases`);
  await expect(page.getByText(/^166 cases/)).toBeVisible();
  await page.getByLabel("Depth").selectOption("quick");
  await expect(page).toHaveURL(/depth=quick/);
  await expect(page.getByText(/^\d\d cases/)).toBeVisible();
  await page.reload();
  await expect(page.getByLabel("Depth")).toHaveValue("quick");
});

test("addresses that lead nowhere say so", async ({ page, demo }) => {
  await page.goto(`${demo.address}/nowhere`);
  await expect(page.getByRole("heading", { name: "There is nothing at this address" })).toBeVisible();
  await page.goto(`${demo.address}/sites/ostlewick/forms/none/cases`);
  await expect(page.getByRole("alert")).toContainText("There is no form none");
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/case?id=none`);
  await expect(page.getByRole("alert")).toContainText("has no case none");
});

test("a site that is down is said before anything is submitted", async ({ page, demo }) => {
  await page.route("**/runs", (route) =>
    route.request().method() === "POST"
      ? route.fulfill({ status: 422, contentType: "application/problem+json", body: JSON.stringify({ detail: "The run cannot start: the site does not answer." }) })
      : route.fallback(),
  );
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/cases`);
  await page.getByRole("button", { name: /^Run these/ }).click();
  await expect(page.getByRole("alert")).toContainText("The run cannot start");
});

test("each view names itself in the browser's tab, and its content is one key away", async ({ page, demo }) => {
  await expect(page).toHaveTitle("Sites – Odd Tick");
  for (const [path, title] of [
    ["/sites/ostlewick/forms/join/cases", "Cases – Join the association – Odd Tick"],
    ["/sites/ostlewick/forms/join/document", "All settings – Join the association – Odd Tick"],
    ["/sites/ostlewick/access", "Access – ostlewick – Odd Tick"],
    ["/sites/ostlewick/settings", "Settings – ostlewick – Odd Tick"],
    ["/sites/ostlewick/forms/join/rules", "Rules – Join the association – Odd Tick"],
  ] as const) {
    await page.goto(demo.address + path);
    await expect(page).toHaveTitle(title);
  }
  await page.keyboard.press("Tab");
  const skip = page.getByRole("button", { name: "Skip to the content" });
  await expect(skip).toBeFocused();
  await skip.press("Enter");
  await expect(page.locator("main").first()).toBeFocused();
});

test("the arrows and the key for the next odd tick work as soon as the scales are there", async ({ page, demo }) => {
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/cases`);
  await expect(page.getByRole("grid", { name: /^Scales/ })).toBeFocused();
  await page.keyboard.press("ArrowRight");
  await expect(page).toHaveURL(/case=/);
});

test("a word of the trade is explained on hover and on focus, and Escape puts it away", async ({ page, demo }) => {
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/form`);
  const word = page.getByRole("button", { name: "server normalises" });
  await word.focus();
  const explained = page.getByRole("tooltip");
  await expect(explained).toHaveText(/before it applies the rules/);
  await page.keyboard.press("Escape");
  await expect(explained).toHaveCount(0);
  await page.getByRole("button", { name: "stored in" }).hover();
  await expect(explained).toHaveText(/The column that holds the value/);
});
