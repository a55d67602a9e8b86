import { join } from "node:path";
import { expect, runAll, signIn, takeIn, test, whileItRuns } from "./demo";
import { shed, states } from "./fixtures";

const folder = process.env.ODDTICK_PICTURES ?? "";
const form = "/sites/ostlewick/forms/join";
const odd = encodeURIComponent("join/username.length.max+1/http");

test.skip(folder === "", "pictures are made by make screenshots");

test("the main views, from the demo data", async ({ page, demo }, info) => {
  await signIn(page, demo.address);
  await demo.withFaults(page, ["username-cut", "plots-five"], () => runAll(page, demo.address));
  await runAll(page, demo.address);
  await takeIn(page, `site: yard\ntitle: Ostlewick Yard\naddress: ${demo.practice}\n${states}---\n${shed}`);
  const views: [string, string][] = [
    ["document", `${form}/document`],
    ["rules", `${form}/rules`],
    ["try", `${form}/try`],
    ["cases", `${form}/cases?case=${odd}`],
    ["combinations", `${form}/cases?view=combinations&case=${encodeURIComponent("join/pair:username=shortest,born=last/http")}`],
    ["coverage", `${form}/cases?view=coverage&depth=quick`],
    ["decisions", "/sites/yard/forms/shed/cases?view=decisions"],
    ["run", "/sites/sheds/forms/build/run"],
    ["case", `${form}/case?id=${odd}`],
    ["findings", `${form}/findings`],
    ["compare", `${form}/findings?against=1`],
    ["access", "/sites/ostlewick/access"],
    ["journeys", "/sites/ostlewick/journeys"],
  ];
  // what the layers are held against
  await page.goto(`${demo.address}${form}/form?from=page`);
  await page.getByRole("button", { name: "Read", exact: true }).click();
  await expect(page.getByText(/Nothing new|Apply \d+ of/)).toBeVisible();
  await page.goto(`${demo.address}${form}/form?from=tables`);
  await page.getByRole("button", { name: "Read the database" }).click();
  await expect(page.getByText(/Nothing new|Apply \d+ of/)).toBeVisible();
  const take = async (name: string, address: string) => {
    await page.goto(demo.address + address);
    await page.waitForLoadState("networkidle");
    await page.evaluate(() => document.fonts.ready);
    await page.screenshot({ path: join(folder, `${name}.png`), animations: "disabled" });
  };
  await demo.withFaults(page, ["members-either", "sign-out-keeps", "confirm-twice"], async () => {
    await page.goto(`${demo.address}/sites/ostlewick/access`);
    await page.getByRole("button", { name: "Open every page" }).click();
    await expect(page.getByText("3 odd")).toBeVisible(whileItRuns);
    await page.goto(`${demo.address}/sites/ostlewick/journeys`);
    await page.getByRole("button", { name: "Run all paths" }).click();
    await expect(page.getByText("run just now")).toBeVisible(whileItRuns);
  });
  await page.goto(`${demo.address}/sites/sheds/forms/build/cases`);
  await expect(page.getByRole("button", { name: /^Run these/ })).toBeEnabled();
  await page.keyboard.press("Control+Enter");
  await page.waitForURL("**/run");
  await expect(page.getByText(/Run \d+ finished/)).toBeVisible(whileItRuns);
  for (const [name, address] of views) await take(name, address);
  // a page made by scripts, whose form stands in a dialog
  await page.goto(`${demo.address}/sites/sheds/forms/keys/form?from=page`);
  await page.getByRole("button", { name: "Read", exact: true }).click();
  await expect(page.getByText(/Nothing new|Apply \d+ of/)).toBeVisible(whileItRuns);
  await page.screenshot({ path: join(folder, "form.png"), animations: "disabled" });
  await page.evaluate(() => localStorage.setItem("oddtick.theme", "dark"));
  await take("cases-dark", `${form}/cases?case=${odd}`);
  await expect(page.locator("html")).toHaveAttribute("data-theme", "dark");
  await page.evaluate(() => localStorage.removeItem("oddtick.theme"));
  await page.goto(demo.address);
  const site = page.getByRole("region", { name: "Ostlewick Allotments" });
  await site.getByRole("button", { name: /Run everything/ }).click();
  await expect(site.getByRole("button", { name: "Stop" })).toBeVisible();
  await expect(site.getByRole("button", { name: /Run everything/ })).toBeVisible({ timeout: 800_000 });
  await take("sites", "/");
  await take("may-it-ship", "/sites/ostlewick/may-it-ship");
  await page.goto(`${demo.address}${form}/findings`);
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "HTML report" }).click();
  const file = info.outputPath("report.html");
  await (await download).saveAs(file);
  await page.goto(`file://${file}`);
  await page.screenshot({ path: join(folder, "report.png") });
  await page.goto(`${demo.address}${form}/run`);
  await page.getByRole("button", { name: "Run with options" }).click();
  await page.getByLabel("Driver").selectOption("hand");
  await page.getByRole("button", { name: "Run", exact: true }).click();
  await expect(page.getByRole("region", { name: "Expected" })).toBeVisible();
  await page.screenshot({ path: join(folder, "by-hand.png"), animations: "disabled" });
});
