import AxeBuilder from "@axe-core/playwright";
import { expect, signIn, takeIn, test, whileItRuns } from "./demo";

test("a run names its environment: it says what will be written, and a protected one is typed", async ({ page, demo }) => {
  await signIn(page, demo.address);
  await takeIn(
    page,
    `site: shore\ntitle: The shore\naddress: ${demo.practice}\nenvironments:\n  - {id: live, title: Production, address: ${demo.practice}, protected: confirm}\n  - {id: seen, title: Seen only, address: ${demo.practice}, protected: no_writes}\n---\nform: join\ntitle: Join\npage: /join\nfields: [{name: username, label: Username, rules: [{length: {max: 20}}]}]\nstored: [{insert: plot_holders, columns: {login_name: {from: username}}}]\n`,
  );
  await page.goto(`${demo.address}/sites/shore/forms/join/run`);
  await page.getByRole("button", { name: /Run with options/ }).press("Enter");
  const will = page.getByRole("dialog").getByRole("status");
  await expect(will).toContainText(/It submits \d+ cases to http/);
  await expect(will).toContainText(/At most \d+ rows inserted in plot_holders/);
  const where = page.getByLabel("Environment");
  await where.selectOption("Seen only");
  await expect(will).toContainText("Only cases that should write nothing are run there.");
  await expect(will).toContainText("Nothing should be written.");
  await where.selectOption("Production");
  const run = page.getByRole("button", { name: "Run", exact: true });
  await expect(page.getByLabel("Protected: type its id")).toBeVisible();
  await expect(run).toBeDisabled();
  expect((await new AxeBuilder({ page }).analyze()).violations.map((v) => v.id)).toEqual([]);
  await page.getByLabel("Protected: type its id").fill("live");
  await page.keyboard.press("Enter");
  await expect(page.getByText(/Run 1 .*live/)).toBeVisible(whileItRuns);
});
