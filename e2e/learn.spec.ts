import { Demo, expect, signIn, test, whileItRuns } from "./demo";

test("from an empty project to the first true finding, without a rule written", async ({ page }) => {
  const demo = await new Demo({ ODDTICK_FAULTS: "username-cut,plots-five,secret-base64" }).start();
  try {
    const dsn = /Its database is (\S+)/.exec(demo.output)?.[1] ?? "";
    await signIn(page, demo.address);
    // hands: each click, each choice and each field that is gone to is a click; keys do not count what is the site's address and database
    let clicks = 0;
    let keys = 0;
    const type = async (label: string, within: ReturnType<typeof page.getByRole>, text: string, counted: boolean, key = "") => {
      clicks++;
      keys += (counted ? text.length : 0) + (key ? 1 : 0);
      await within.getByLabel(label).fill(text);
      if (key) await within.getByLabel(label).press(key);
    };
    clicks++;
    await page.getByText("Add a site", { exact: true }).click();
    const begin = page.getByRole("form", { name: "Add a site" });
    await type("Title", begin, "Anew", true);
    await type("Address", begin, demo.practice, false);
    clicks++;
    await begin.getByLabel("Kind of database").selectOption("Data source name");
    await type("Data source name", begin, dsn, false, "Enter");
    const site = page.getByRole("region", { name: "Anew" });
    await type("Title", site, "Join", true);
    await type("Path of the page", site, "/join", true, "Enter");
    await page.waitForURL("**/forms/join/form");
    clicks++;
    await page.getByRole("button", { name: "Learn this form" }).click();
    const unusual = page.getByRole("list", { name: "Unusual" });
    await expect(unusual).toBeVisible(whileItRuns);
    await expect(unusual.getByText(/Password is stored in plot_holders\.pass_hash as base64/)).toBeVisible();
    await expect(unusual.getByText(/Username is accepted whole and stored cut/)).toBeVisible();
    await expect(unusual.getByText(/The page does not allow Plots wanted “5”, and the server accepts it/)).toBeVisible();
    const submissions = Number(/(\d+) submissions/.exec((await page.getByRole("status").filter({ hasText: "submissions" }).textContent()) ?? "")?.[1]);
    console.log(`from an empty project to the first finding: ${clicks} clicks, ${keys} keys, ${submissions} submissions`);
    expect(clicks).toBeLessThanOrEqual(8);
    expect(keys).toBeLessThanOrEqual(20);
    expect(submissions).toBeLessThanOrEqual(300);

    // what is called wrong stays so, in a document that holds what was learned
    await unusual.getByRole("listitem").filter({ hasText: "stored cut" }).focus();
    await page.keyboard.press("w");
    await expect(unusual.getByRole("listitem").filter({ hasText: "stored cut" }).getByText("Wrong here:")).toBeVisible();
    await expect(page.getByRole("table", { name: "Fields in page order" }).getByRole("row")).toHaveCount(12);
    await page.reload();
    await expect(page.getByText("Wrong here:")).toBeVisible(whileItRuns);
    await expect(page.getByRole("button", { name: "Apply 0 of 1" })).toBeVisible(); // another title
  } finally {
    await demo.remove();
  }
});
