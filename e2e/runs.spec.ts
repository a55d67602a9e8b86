import { readFileSync } from "node:fs";
import { expect, signIn, test, whileItRuns } from "./demo";

test("some of the cases are run, in the browser only, and a stopped run goes on", async ({ page, demo }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address}/sites/ostlewick/forms/help/run`);
  await page.getByRole("button", { name: "Run all cases of standard depth" }).click();
  await page.getByRole("button", { name: "Stop" }).click();
  await expect(page.getByText(/Run \d+ stopped/)).toBeVisible(whileItRuns);
  await page.getByRole("button", { name: "Resume" }).click();
  await expect(page.getByText(/Run 1 finished, \d+ of \d+ cases, 0 odd/)).toBeVisible(whileItRuns);
  await page.getByRole("button", { name: "Run with options" }).click();
  await page.getByLabel("Driver").selectOption("browser");
  await page.getByLabel("Field", { exact: true }).selectOption({ label: "Your name" });
  await page.getByRole("button", { name: "Run", exact: true }).click();
  await expect(page.getByText(/Run 2 finished, (\d+) of \1 cases, 0 odd/)).toBeVisible(whileItRuns);
  await page.getByRole("button", { name: "Run with options" }).click();
  await page.getByLabel("Cases", { exact: true }).selectOption("odd");
  await expect(page.getByRole("dialog").getByRole("status")).toContainText("No case matches");
  await expect(page.getByRole("button", { name: "Run", exact: true })).toBeDisabled();
});

test("an odd case shows the page with its message, the same over HTTP, and its requests without secrets", async ({ page, demo }) => {
  await signIn(page, demo.address);
  const one = `${demo.address}/sites/ostlewick/forms/join/case?id=${encodeURIComponent("join/email.email.miss.without_sign/browser")}`;
  await demo.withFaults(page, ["message-hidden"], async () => {
    await page.goto(one);
    await page.getByRole("button", { name: "Run only this case" }).click();
    await expect(page.getByText(/finished, 1 of 1 cases, 1 odd/)).toBeVisible(whileItRuns);
  });
  await page.goto(one);
  await expect(page.getByRole("heading", { name: "Message for E-mail is in the page, but hidden" })).toBeVisible();
  await expect(page.getByText("in the page, but not displayed")).toBeVisible();
  const picture = page.getByAltText("The page after the submission");
  await expect(picture).toBeVisible();
  expect(await picture.evaluate((e: HTMLImageElement) => e.naturalWidth)).toBe(1280);
  await expect(page.getByText("The same over HTTP:")).toBeVisible();
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "Download requests (HAR)" }).click();
  const har = JSON.parse(readFileSync(await (await download).path(), "utf8"));
  expect(har.log.entries[0].request.method).toBe("POST");
  expect(har.log.entries[0].request.postData.text).toContain("pass=•••");
});

test("a submission by hand goes through the browser, and is kept as a case by keys alone", async ({ page, demo }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address}/sites/ostlewick/forms/help/try`);
  await page.getByLabel("Driver").selectOption("browser");
  const name = page.getByRole("region", { name: "Values" }).getByLabel("Your name");
  await name.fill("");
  await expect(page.getByText("rejected by the browser")).toBeVisible();
  await page.keyboard.press("Control+Enter");
  await expect(page.getByRole("heading", { name: "Rejected by the browser, as expected" })).toBeVisible(whileItRuns);
  await expect(page.getByAltText("The page after the submission")).toBeVisible();
  await page.getByRole("button", { name: "Save as a case" }).press("Enter");
  await page.keyboard.press("Enter");
  await page.getByRole("link", { name: "Saved as a case" }).click();
  await expect(page.getByText("in the browser", { exact: false }).first()).toBeVisible();
});

test("for a site that no machine may touch, a person makes the cases, by keys alone", async ({ page, demo }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/run`);
  await page.getByRole("button", { name: "Run with options" }).click();
  await page.getByLabel("Driver").selectOption("hand");
  await page.getByLabel("Field", { exact: true }).selectOption({ label: "Password again" });
  await page.getByRole("button", { name: "Run", exact: true }).click();
  await page.waitForURL("**/by-hand");
  const enter = page.getByRole("region", { name: "Enter" });
  await expect(enter.getByText("Password again")).toBeVisible();
  await expect(page.getByRole("region", { name: "Expected" }).getByText("rejected by the server").or(page.getByText("accepted").first())).toBeVisible();
  await page.keyboard.press("c");
  await page.reload();
  await expect(enter.getByText("Password again")).toBeVisible();
  // a rejection that was seen as expected; the database agrees, as nothing was written
  await page.keyboard.press("e");
  await expect(page.getByText(/1 of \d+ done|All cases are done/)).toBeVisible();
  while (!(await page.getByText("All cases are done").isVisible())) {
    await page.keyboard.press("o");
    await page.keyboard.type("the message is cut off");
    await page.keyboard.press("Control+Enter");
    await page.waitForTimeout(400);
  }
  await page.getByRole("link", { name: "Go to the run" }).click();
  await expect(page.getByText(/finished, (\d+) of \1 cases/)).toBeVisible();
});
