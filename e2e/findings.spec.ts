import { readFile, writeFile } from "node:fs/promises";
import AxeBuilder from "@axe-core/playwright";
import { expect, runAll, signIn, test } from "./demo";

const findings = "/sites/ostlewick/forms/join/findings";

test.beforeEach(async ({ page, demo }) => {
  await signIn(page, demo.address);
  await demo.hasRun(page);
});

test("findings are gone through by keys, and what is said of one stays", async ({ page, demo }) => {
  await page.goto(demo.address + findings);
  const list = page.getByRole("navigation", { name: "Findings" });
  await list.getByRole("button", { name: /Username.*stored cut/ }).focus();
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("ArrowDown");
  await expect(page.getByRole("heading", { level: 2 })).toContainText("(plot_holders.membership)");
  await page.keyboard.press("ArrowUp");
  await page.keyboard.press("ArrowUp");
  await expect(page.getByRole("heading", { level: 2 })).toHaveText("Username of 21 characters accepted (promised: 3 to 20 characters), stored cut to 20 characters");
  // it may be over in less time than passes between two looks of expect
  const looking = page.getByRole("status").filter({ hasText: "Investigating" }).waitFor();
  await page.getByRole("button", { name: "Investigate" }).click();
  await looking;
  const further = page.getByRole("region", { name: "Investigated" });
  await expect(further).toContainText("Reproduced 5 of 5 times. Simplest trigger: an unusual value in Username.");
  await expect(further).toContainText("accepted up to 190 characters, stored whole only up to 20 characters");
  await expect(further.getByRole("img", { name: /20 characters accepted, 21 characters accepted, .*191 characters rejected/ })).toBeVisible();
  await page.getByLabel("State").selectOption("known");
  await page.getByLabel("Severity").selectOption("major");
  await page.getByLabel("Known until").fill("2999-01-31");
  await page.getByLabel("Comment").fill("The column is being widened");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(list.getByText("known, until 2999-01-31")).toBeVisible();
  await page.reload();
  await expect(page.getByRole("list", { name: "History" })).toContainText("The column is being widened");
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "Known findings (YAML)" }).click();
  await expect.poll(async () => readFile(await (await download).path(), "utf8")).toMatch(/until: "?2999-01-31/);
  await page.getByRole("link", { name: "Evidence" }).click();
  await expect(page).toHaveURL(/case\?id=join%2Fusername\.length\.max%2B1%2Fhttp/);
  await page.goBack();
  await page.getByRole("main", { name: "The chosen finding" }).focus();
  await page.keyboard.press("s");
  await expect(page).toHaveURL(/rules\?field=username/);
  await expect(page.getByRole("rowgroup", { name: "Username" }).locator(":focus")).toHaveCount(1);
});

test("a run is held against another", async ({ page, demo }) => {
  const before = Number(/Run (\d+)/.exec(await page.getByText(/Run \d+ finished/).innerText())?.[1]);
  await demo.withFaults(page, ["plots-five", "username-cut"], () => runAll(page, demo.address));
  await page.goto(`${demo.address}${findings}?against=${before}`);
  const compared = page.getByRole("region", { name: `Compared with run ${before}` });
  await expect(compared).toContainText("1 newly odd");
  await expect(compared).toContainText("no longer odd");
  await expect(compared.getByText("(plot_holders.membership)")).toBeVisible();
  await expect(page.getByRole("button", { name: /Plots wanted.*newly odd/ })).toBeVisible();
  await page.getByRole("button", { name: /Plots wanted.*newly odd/ }).click();
  const both = page.getByRole("region", { name: "Then and now" });
  await expect(both.getByText(`run ${before}`, { exact: true })).toBeVisible();
  await expect(both.getByRole("button", { name: /Plots wanted, run \d+, 5: odd/ })).toHaveCount(1);
  await page.goto(demo.address);
  await expect(page.getByRole("link", { name: /newly odd, .* no longer found since run/ })).toBeVisible();
  await page.goBack();
  await page.getByRole("combobox", { name: /^Compare with/ }).selectOption("0");
  await expect(compared).toHaveCount(0);
});

test("the report opens from a disk without a network, and has no barrier", async ({ page, demo, browser }, info) => {
  await page.goto(demo.address + findings);
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "HTML report" }).click();
  const file = info.outputPath("report.html");
  await (await download).saveAs(file);
  for (const colorScheme of ["light", "dark"] as const) {
    const alone = await browser.newContext({ colorScheme, offline: true });
    const report = await alone.newPage();
    const asked: string[] = [];
    report.on("request", (r) => asked.push(r.url()));
    await report.goto(`file://${file}`);
    await expect(report.getByRole("heading", { level: 1 })).toHaveText(/^Join the association: not ready to ship: [34] major findings, 1 trivial finding$/); // one may be known by now
    expect(asked, "nothing but the file itself is asked for").toHaveLength(1);
    const over = await report.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
    expect(over).toBeLessThanOrEqual(0);
    // axe needs a script of its own, which the report's own policy would not let in
    const text = (await report.content()).replace(/<meta http-equiv[^>]*>/, "");
    await writeFile(info.outputPath(`${colorScheme}.html`), text);
    await report.goto(`file://${info.outputPath(`${colorScheme}.html`)}`);
    const found = await new AxeBuilder({ page: report }).withTags(["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa", "best-practice"]).analyze();
    expect(found.violations.map((v) => `${v.id} ${v.nodes[0]?.html}`)).toEqual([]);
    await alone.close();
  }
});
