import AxeBuilder from "@axe-core/playwright";
import { expect, signIn, test } from "./demo";

const join = "/sites/ostlewick/forms/join";

test("a case is made by hand: the page is a link away, the row shows, a picture is pasted, the run is paused and continued", async ({ page, demo, context }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address}${join}/run`);
  await page.getByRole("button", { name: "Run with options" }).click();
  await page.getByLabel("Driver").selectOption("hand");
  await page.getByRole("button", { name: "Run", exact: true }).click();
  const later = page.getByRole("button", { name: "Later" });
  await expect(later).toBeVisible();
  await expect(page.getByText("No row was written yet.")).toBeVisible();

  // to a case that is accepted
  const expected = page.getByRole("region", { name: "Expected" });
  const title = page.getByRole("heading", { level: 2 });
  for (let i = 0; i < 30 && !(await expected.getByText("accepted", { exact: true }).isVisible()); i++) {
    const before = await title.innerText();
    await later.click();
    await expect(title).not.toHaveText(before);
    await expect(expected.getByText(/^(accepted|rejected by the server)$/)).toBeVisible();
  }
  const opened = context.waitForEvent("page");
  await page.getByRole("link", { name: /\/join$/ }).click();
  const site = await opened;
  const rows = page.getByRole("region", { name: "Enter" }).getByRole("row");
  for (const row of await rows.all()) {
    const label = await row.getByRole("rowheader").innerText();
    const value = await row.getByRole("cell").first().innerText();
    const control = site.getByLabel(label, { exact: label === "Password" });
    if (value === "check it") await control.check();
    else if (value !== "leave it blank") {
      if ((await control.evaluate((e) => e.tagName)) === "SELECT") await control.selectOption({ label: value });
      else await control.fill(value);
    }
  }
  await site.getByRole("button", { name: "Join" }).click();
  await expect(site).toHaveURL(/waiting-list/);
  const stored = page.getByRole("region", { name: "In the database" });
  await expect(stored.getByText(/row \d+ inserted/)).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations.map((v) => v.id)).toEqual([]);

  await page.evaluate(async () => {
    const picture = await new Promise<Blob | null>((done) => document.createElement("canvas").toBlob(done, "image/png"));
    const pasted = new DataTransfer();
    if (picture) pasted.items.add(new File([picture], "seen.png", { type: "image/png" }));
    window.dispatchEvent(new ClipboardEvent("paste", { clipboardData: pasted }));
  });
  await expect(page.getByRole("img", { name: "the picture that was chosen" })).toBeVisible();
  const made = await title.innerText();
  await page.keyboard.press("e");
  await expect(title).not.toHaveText(made);
  await expect(page.getByText("1 of 120 done")).toBeVisible();

  await page.getByRole("button", { name: "Pause" }).click();
  await page.getByRole("button", { name: "Continue the run" }).press("Enter");
  await expect(page.getByText("1 of 120 done")).toBeVisible();
  await page.getByRole("button", { name: "End the run" }).click();
  await expect(page.getByText(/stopped, 1 of 120 cases/)).toBeVisible();
});
