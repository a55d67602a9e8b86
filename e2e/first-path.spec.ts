import { Demo, expect, runAll, signIn, test, whileItRuns } from "./demo";

/** The demo's faults: the case that shows each, and the words that name the difference. */
const faults = [
  {
    row: "Username",
    case: "join/username.length.max+1/http",
    headline: "Username of 21 characters accepted (promised: 3 to 20 characters), stored cut to 20 characters",
    check: "Stored data",
    part: "plot_holders.login_name",
  },
  {
    row: "E-mail",
    case: "join/email.lower.other/http",
    headline: "E-mail stored with other capitals than promised (plot_holders.mail)",
    check: "Stored data",
    part: "plot_holders.mail",
  },
  {
    row: "Membership number",
    case: "join/membership.guess.zeros/http",
    headline: /Membership number: “OS-\d+” stored instead of “OS-0\d+” \(plot_holders.membership\)/,
    check: "Stored data",
    part: "plot_holders.membership",
  },
  {
    row: "Date of birth",
    case: "join/born.range.max+1/http",
    headline: /Message for Date of birth shown at the wrong place/,
    check: "Messages",
    part: /^message for Date of birth \(.*\): place$/,
  },
  { row: "Uniqueness", case: "join/username.unique.case/http", headline: "Username accepted twice when only its capitals differ", check: "Outcome", part: "" },
];

test("a wrong password is refused without saying which part was wrong", async ({ page, demo }) => {
  await page.goto(demo.address);
  await page.getByLabel("Name").fill("tester");
  await page.getByLabel("Password").fill("not this");
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page.getByRole("alert")).toHaveText("The name or the password is wrong.");
});

test("each of the five faults is an odd tick whose evidence names the difference, and nothing else is odd", async ({ page, demo }) => {
  await signIn(page, demo.address);
  await page.getByRole("link", { name: "Join the association" }).click();
  await runAll(page, demo.address);
  const aside = page.getByRole("complementary", { name: "Odd so far" });
  await expect(aside.getByRole("listitem")).toHaveCount(faults.length);
  for (const f of faults) {
    await expect(aside.getByRole("listitem").filter({ hasText: f.row }).filter({ hasText: f.headline })).toHaveCount(1);
    await page.goto(`${demo.address}/sites/ostlewick/forms/join/case?id=${encodeURIComponent(f.case)}`);
    await expect(page.getByRole("heading", { level: 2 })).toHaveText(f.headline);
    const check = page
      .getByRole("listitem")
      .filter({ hasText: f.check })
      .filter({ has: page.getByRole("img", { name: "odd" }) });
    await expect(check).toBeVisible();
    if (f.part) await expect(check.getByText(f.part, { exact: true })).toBeVisible();
    await page.goBack();
    await expect(aside).toBeVisible();
  }
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/cases`);
  // three cases show the misplaced message, one each of the others
  await expect(page.getByRole("gridcell").getByRole("button", { name: /: odd, / })).toHaveCount(7);
});

test("with all faults off nothing is odd, twice in a row", async ({ page }) => {
  // a demo of its own: others count on the faults of the one they share
  const demo = await new Demo().start();
  try {
    await demo.fault(page, []);
    await signIn(page, demo.address);
    for (let i = 0; i < 2; i++) {
      await runAll(page, demo.address);
      await expect(page.getByText(/166 of 166 cases, 0 odd/)).toBeVisible();
      await expect(page.getByText("Nothing is odd.")).toBeVisible();
    }
    // a clean run says what it checked
    await page.goto(`${demo.address}/sites/ostlewick/forms/join/findings`);
    await expect(page.getByRole("heading", { name: "Run 2: what was checked" })).toBeVisible();
    await expect(page.getByText("166 of 166 cases were run by tester")).toBeVisible();
    await expect(page.getByRole("row", { name: /^Outcome 166 0 0$/ })).toBeVisible();
    await expect(page.getByText("23 of 23").first()).toBeVisible();
  } finally {
    await demo.remove();
  }
});

test("after everything was killed, a new start keeps the data, lets the run go on, and runs alike", async ({ page }) => {
  const demo = await new Demo({ ODDTICK_FAULTS: "username-cut" }).start();
  try {
    await signIn(page, demo.address);
    await runAll(page, demo.address);
    await expect(page.getByText(/Run 1 finished, 166 of 166 cases, 1 odd/)).toBeVisible();
    // kill in the middle of a run
    await page.getByRole("button", { name: "Run again" }).click();
    await expect(page.getByText(/Run 2|of 166 ·/).first()).toBeVisible();
    process.kill(demo.databasePid(), "SIGKILL");
    await demo.stop("SIGKILL");
    await demo.start();
    await page.context().clearCookies();
    await signIn(page, demo.address);
    await page.goto(`${demo.address}/sites/ostlewick/forms/join/run`);
    await expect(page.getByText(/Run 2 finished, 166 of 166 cases, 1 odd/)).toBeVisible(whileItRuns);
    await runAll(page, demo.address);
    await expect(page.getByText(/Run 3 finished, 166 of 166 cases, 1 odd/)).toBeVisible();
  } finally {
    await demo.remove();
  }
});

test("a second demo on the same folder, and one on a taken port, are refused plainly", async ({ demo }) => {
  const same = new Demo({ ODDTICK_DATA: demo.data });
  await expect(same.start()).rejects.toThrow(/another demo uses the data folder/);
  const port = new URL(demo.address).host;
  const taken = new Demo({ ODDTICK_ADDR: port });
  await expect(taken.start()).rejects.toThrow(/cannot listen on .* Choose another port/s);
  await same.remove();
  await taken.remove();
});
