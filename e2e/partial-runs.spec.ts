import { join } from "node:path";
import { expect, runAll, signIn, test, whileItRuns } from "./demo";

const form = "/sites/ostlewick/forms/join";
const folder = process.env.ODDTICK_LOOK ?? "";

/** What was not run is never an all-clear, wherever a lead may look. */
test("a run that was only begun, and one that was stopped, say what was run", async ({ page, demo }) => {
  const look = async (name: string, path: string) => {
    await page.goto(`${demo.address}${path}`);
    await page.waitForLoadState("networkidle");
    if (folder) await page.screenshot({ path: join(folder, `${name}.png`), animations: "disabled" });
  };
  await signIn(page, demo.address);
  await demo.withFaults(page, [], () => runAll(page, demo.address));

  // a run by hand that was begun: nothing of it was run
  await page.goto(`${demo.address}${form}/run`);
  await page.getByRole("button", { name: /Run with options/ }).click();
  await page.getByLabel("Driver").selectOption("hand");
  await page.getByRole("button", { name: "Run", exact: true }).click();
  await page.waitForURL("**/by-hand");
  await look("begun-sites", "/");
  await expect(
    page
      .getByRole("region", { name: "Ostlewick Allotments" })
      .getByText(/0 of \d+/)
      .first(),
  ).toBeVisible();
  await look("begun-findings", `${form}/findings`);
  await expect(page.getByText(/nothing was run, 0 of \d+ cases/)).toBeVisible();
  await expect(page.getByText("Nothing is odd in this run.")).toBeHidden();
  await look("begun-run", `${form}/run`);
  await page.getByRole("button", { name: "Stop" }).click();
  await expect(page.getByText(/Run \d+ stopped/)).toBeVisible(whileItRuns);

  // a run that was stopped on its way
  await page.goto(`${demo.address}${form}/cases`);
  await expect(page.getByRole("button", { name: /^Run these/ })).toBeEnabled();
  await page.keyboard.press("Control+Enter");
  await page.waitForURL("**/run");
  await expect(page.getByText(/^[2-9]\d of 166/).first()).toBeVisible(whileItRuns);
  await page.getByRole("button", { name: "Stop" }).click();
  await expect(page.getByText(/Run \d+ stopped/)).toBeVisible(whileItRuns);
  await look("stopped-run", `${form}/run`);
  await look("stopped-sites", "/");
  await expect(page.getByText(/\d+ not run/).first()).toBeVisible();
  await look("stopped-findings", `${form}/findings`);
  await expect(page.getByText(/\d+ of 166 cases run/).first()).toBeVisible();
  await expect(page.getByText("Nothing is odd in this run.")).toBeHidden();
  await look("stopped-compare", `${form}/findings?against=1`);
  // a run of which no case was run is none to compare with
  await expect(page.getByRole("option", { name: /\(0 of/ })).toHaveCount(0);
  const answer = await page.request.get(`${demo.address}/api${form}/runs/0/report/html`);
  expect(await answer.text()).toMatch(/did not finish: \d+ of 166 cases were run/);
  if (folder) {
    await page.setContent(await answer.text());
    await page.screenshot({ path: join(folder, "stopped-report.png") });
  }
});
