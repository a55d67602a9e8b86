import { join } from "node:path";
import { expect, runAll, signIn, test } from "./demo";

const folder = process.env.ODDTICK_PICTURES ?? "";
const form = "/sites/ostlewick/forms/join";
const odd = encodeURIComponent("join/username.length.max+1/http");

test.skip(folder === "", "pictures are made by make screenshots");

test("the main views, from the demo data", async ({ page, demo }) => {
  await signIn(page, demo.address);
  await runAll(page, demo.address);
  const views: [string, string][] = [
    ["sites", "/"],
    ["rules", `${form}/rules`],
    ["cases", `${form}/cases?case=${odd}`],
    ["run", `${form}/run`],
    ["case", `${form}/case?id=${odd}`],
    ["findings", `${form}/findings`],
  ];
  const take = async (name: string, address: string) => {
    await page.goto(demo.address + address);
    await page.waitForLoadState("networkidle");
    await page.evaluate(() => document.fonts.ready);
    await page.screenshot({ path: join(folder, `${name}.png`), animations: "disabled" });
  };
  for (const [name, address] of views) await take(name, address);
  await page.evaluate(() => localStorage.setItem("oddtick.theme", "dark"));
  await take("cases-dark", `${form}/cases?case=${odd}`);
  await expect(page.locator("html")).toHaveAttribute("data-theme", "dark");
});
