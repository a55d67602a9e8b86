import { Demo, expect, signIn, test, whileItRuns } from "./demo";

test("a form that scripts make is read in its dialog, and a trace sees what they send", async ({ page }) => {
  const demo = await new Demo().start();
  try {
    await signIn(page, demo.address);
    const site = page.getByRole("region", { name: "Ostlewick Sheds" });
    await site.getByText("Add a form").click();
    await site.getByLabel("Title").fill("Keys anew");
    await site.getByLabel("Path of the page").fill("/keys");
    await site.getByLabel("Path of the page").press("Enter");
    await page.waitForURL("**/forms/keys_anew/form");
    await page.getByLabel("Button that opens the form").fill("Ask for a key");
    await page.getByRole("button", { name: "Read", exact: true }).click();
    await expect(page.getByText("opened_by: Ask for a key")).toBeVisible(whileItRuns);
    await expect(page.getByText("single choice; Brook 11, Brook 4, East 2, East 9, Hill 7")).toBeVisible();
    await page.getByRole("button", { name: /^Apply \d+ of \d+$/ }).click();
    await expect(page.getByRole("heading", { name: "Trace" })).toBeVisible();
    const trace = page.getByRole("region", { name: "Trace" });
    const collect = new Date(Date.now() + 5 * 86_400_000).toISOString().slice(0, 10);
    await trace.getByLabel("Number of keys", { exact: true }).fill("2");
    await trace.getByLabel("Day of collection", { exact: true }).fill(collect);
    await trace.getByLabel("I accept the rules of the key cupboard", { exact: true }).check();
    await page.keyboard.press("Control+Enter");
    await expect(page.getByText("submit: encoding json, method POST, to /api/keys")).toBeVisible(whileItRuns);
    await expect(page.getByText("name: collectOn")).toBeVisible();
    await expect(page.getByText("kind: number", { exact: true })).toBeVisible();
    await page.getByRole("button", { name: "Apply 6 of 6" }).click();
    await expect(page.getByLabel("Request name of Day of collection")).toHaveValue("collectOn");
    await expect(page.getByLabel("Request name of E-mail address")).toHaveValue("email");
  } finally {
    await demo.remove();
  }
});
