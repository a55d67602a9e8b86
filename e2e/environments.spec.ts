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
  await expect(page.getByText(/Run 1 finished.*live/)).toBeVisible(whileItRuns);

  // one submission by hand names its environment as well
  await page.goto(`${demo.address}/sites/shore/forms/join/try`);
  const send = page.getByRole("button", { name: "Send", exact: true });
  await expect(send).toBeEnabled();
  await page.getByLabel("Environment").selectOption("Seen only");
  await expect(send).toBeDisabled();
  await page.getByLabel("Environment").selectOption("Production");
  await expect(send).toBeDisabled();
  await page.getByLabel("Protected: type its id").fill("live");
  await page.keyboard.press("Enter");
  await expect(
    page
      .getByRole("heading", { name: "Result" })
      .or(page.getByText(/as expected|accepted|rejected/i))
      .first(),
  ).toBeVisible();
  await expect(page.getByRole("alert")).toHaveCount(0);
});

test("a database and an environment are entered in Settings, by labels", async ({ page, demo }) => {
  const [, port = "", name = ""] = /Its database is root@tcp\(127\.0\.0\.1:(\d+)\)\/(\w+)/.exec(demo.output) ?? [];
  await signIn(page, demo.address);
  await takeIn(page, `site: quay\ntitle: The quay\naddress: ${demo.practice}\n`);
  await page.goto(`${demo.address}/sites/quay/settings`);
  const save = async () => {
    await page.getByRole("button", { name: "Save" }).click();
    await expect(page.getByText("Saved.")).toBeVisible();
  };
  await page.getByRole("button", { name: "Add a database" }).click();
  const main = page.getByRole("group", { name: "database main" });
  await main.getByLabel("Kind of database").selectOption("MariaDB or MySQL");
  await main.getByLabel("Port").fill(port);
  await main.getByLabel("User").fill("root");
  await main.getByLabel("Tables not compared").fill("mail_log, confirmations");
  // without its name the database is asked for, and nothing is saved
  await page.getByRole("button", { name: "Save" }).click();
  await expect(main.getByLabel("Database", { exact: true })).toBeFocused();
  await main.getByLabel("Database", { exact: true }).fill(name);
  await save();
  await expect(main.getByText(`127.0.0.1:${port}/${name}`)).toBeVisible();
  await page.getByRole("button", { name: "Test connection" }).click();
  await expect(page.getByRole("list", { name: "Result of the test" })).toContainText("binary log");
  // a connection that is begun anew and given up stays as it was
  await main.getByRole("button", { name: "Change the connection" }).click();
  await main.getByLabel("Kind of database").selectOption("SQLite");
  await main.getByRole("button", { name: "Keep the connection" }).click();
  await page.getByRole("button", { name: "Add an environment" }).click();
  const live = page.locator("details").last();
  await live.getByLabel("Title").fill("Production");
  await live.getByLabel("Address").fill(demo.practice);
  await live.getByLabel("Before a run").selectOption("its short name must be typed");
  await live.getByRole("button", { name: "Add an account" }).click();
  await live.getByLabel("Signs in as").fill("maple");
  await live.getByLabel("Password", { exact: true }).last().fill("a secret of maple");
  await save();
  await page.reload();
  await page.locator("summary", { hasText: "Production" }).click();
  await expect(main.getByText(`127.0.0.1:${port}/${name}`)).toBeVisible();
  await expect(page.getByRole("group", { name: "account account1" }).getByLabel("Password")).toHaveAttribute("placeholder", "kept");
  const text = await page.request.get(`${demo.address}/api/sites/quay/document`);
  expect((await text.json()).text).toContain("protected: confirm");
  expect(await text.text()).not.toContain("a secret of maple");
});
