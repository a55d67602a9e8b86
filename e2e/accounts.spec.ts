import { spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { Demo, expect, signIn, test } from "./demo";

test("a password is changed, and the session that has ended elsewhere asks to sign in again where one was", async ({ browser }) => {
  const demo = await new Demo().start();
  try {
    const page = await browser.newPage();
    await signIn(page, demo.address);
    const elsewhere = await (await browser.newContext()).newPage();
    await signIn(elsewhere, demo.address);
    await elsewhere.getByRole("link", { name: "Join the association" }).click();
    await elsewhere.getByRole("link", { name: "Findings" }).click();
    await expect(elsewhere).toHaveURL(/\/forms\/join\/findings/);

    await page.getByRole("link", { name: "tester" }).click();
    await page.getByLabel("Current password").fill("brook-side-42");
    await page.getByLabel("New password", { exact: true }).fill("password1234");
    await page.getByLabel("New password again").fill("password1234");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("alert")).toContainText("easy to guess");
    await page.getByLabel("New password", { exact: true }).fill("heron lantern moss");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("alert")).toHaveText("The two new passwords are not the same.");
    await page.getByLabel("New password again").fill("heron lantern moss");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("status")).toHaveText("Your password is changed.");
    await page.getByRole("link", { name: "Sites" }).click();
    await expect(page.getByRole("link", { name: "Join the association" })).toBeVisible();

    await elsewhere.getByLabel("Name", { exact: true }).fill("tester");
    await elsewhere.getByLabel("Password", { exact: true }).fill("heron lantern moss");
    await elsewhere.getByRole("button", { name: "Sign in" }).click();
    await expect(elsewhere.getByRole("link", { name: "tester" })).toBeVisible();
    await expect(elsewhere).toHaveURL(/\/forms\/join\/findings/);
  } finally {
    await demo.remove();
  }
});

test("the first user of a server comes by the link that it prints", async ({ page, demo }) => {
  const server = /root@tcp\([^)]+\)/.exec(demo.output)?.[0];
  const folder = mkdtempSync(join(tmpdir(), "oddtick-serve-"));
  const child = spawn(process.env.ODDTICK_BIN ?? join(import.meta.dirname, "../bin/oddtick"), ["serve", "--as-root"], {
    env: { ...process.env, ODDTICK_ADDR: "127.0.0.1:0", ODDTICK_DSN: `${server}/own_${Date.now()}`, ODDTICK_KEY_FILE: join(folder, "key") },
  });
  try {
    let output = "";
    await new Promise<void>((resolve, reject) => {
      child.stdout.on("data", (chunk: Buffer) => {
        output += chunk;
        if (output.includes("Odd Tick is at ")) resolve();
      });
      child.on("exit", (code) => reject(new Error(`serve ended with ${code}: ${output}`)));
    });
    const link = /\S+first-user#\S+/.exec(output)?.[0] ?? "";
    await page.goto(link.replace("/first-user#", "/first-user#X"));
    await expect(page.getByRole("alert")).toContainText("no longer works");
    await page.goto("about:blank");
    await page.goto(link);
    await page.getByLabel("Name").fill("keeper");
    await page.getByLabel("Password", { exact: true }).fill("heron lantern moss");
    await page.getByLabel("Password again").fill("heron lantern moss");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("link", { name: "keeper" })).toBeVisible();
    await page.goto("about:blank");
    await page.goto(link);
    await expect(page.getByRole("alert")).toContainText("no longer works");
  } finally {
    const ended = new Promise((resolve) => child.on("exit", resolve));
    child.kill("SIGINT");
    await ended;
    rmSync(folder, { recursive: true, force: true });
  }
});

test("the interface speaks German where that is chosen, and after a reload", async ({ page, demo }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address}/account`);
  await page.getByRole("combobox", { name: "Language" }).selectOption({ label: "Deutsch" });
  await expect(page.getByRole("heading", { name: "Passwort ändern" })).toBeVisible();
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/cases`);
  await expect(page.getByRole("button", { name: /^Diese \d+ Fälle laufen lassen$/ })).toBeVisible();
  await expect(page.locator("html")).toHaveAttribute("lang", "de");
  await page.goto(`${demo.address}/account`);
  await page.getByRole("combobox", { name: "Sprache" }).selectOption({ label: "English" });
  await expect(page.getByRole("heading", { name: "Change your password" })).toBeVisible();
});
