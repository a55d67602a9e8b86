import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { test as base, expect, type Page } from "@playwright/test";

const binary = process.env.ODDTICK_BIN ?? join(import.meta.dirname, "../bin/oddtick");

function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const server = createServer();
    server.on("error", reject);
    server.listen(0, "127.0.0.1", () => {
      const address = server.address();
      server.close(() => (address && typeof address === "object" ? resolve(address.port) : reject(new Error("no port"))));
    });
  });
}

/** A demo of its own, on a free port and a folder that goes with it. */
export class Demo {
  address = "";
  practice = "";
  output = "";
  readonly data = mkdtempSync(join(tmpdir(), "oddtick-e2e-"));
  private process: ChildProcess | undefined;

  constructor(private readonly env: Record<string, string> = {}) {}

  async start(): Promise<this> {
    const port = await freePort();
    this.output = "";
    const child = spawn(binary, ["demo"], {
      env: { ...process.env, ODDTICK_ADDR: `127.0.0.1:${port}`, ODDTICK_DATA: this.data, ...this.env },
    });
    this.process = child;
    await new Promise<void>((resolve, reject) => {
      const listen = (chunk: Buffer) => {
        this.output += chunk;
        if (this.output.includes("Odd Tick is at ")) resolve();
      };
      child.stdout.on("data", listen);
      child.stderr.on("data", listen);
      child.on("exit", (code) => reject(new Error(`the demo ended with ${code}: ${this.output}`)));
    });
    this.address = /Odd Tick is at (\S+)/.exec(this.output)?.[1] ?? "";
    this.practice = /practice site, is at (\S+)/.exec(this.output)?.[1] ?? "";
    return this;
  }

  /** The demo's own process id. */
  pid(): number {
    return this.process?.pid ?? 0;
  }

  /** The database server's process id. */
  databasePid(): number {
    return Number(readFileSync(join(this.data, "mariadb/server.pid"), "utf8"));
  }

  /** Ends the demo as an interrupt from the keyboard does. */
  async stop(signal: NodeJS.Signals = "SIGINT") {
    const child = this.process;
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    const ended = new Promise((resolve) => child.on("exit", resolve));
    child.kill(signal);
    await ended;
  }

  async remove() {
    await this.stop();
    rmSync(this.data, { recursive: true, force: true });
  }

  /** Switches exactly these faults on, and says which were on before. */
  async fault(page: Page, names: string[]): Promise<string[]> {
    const before: string[] = [];
    await page.goto(`${this.practice}/switches`);
    for (const box of await page.getByRole("checkbox").all()) {
      const name = (await box.getAttribute("value")) ?? "";
      const on = await box.isChecked();
      if (on) before.push(name);
      if (on !== names.includes(name)) await box.click();
    }
    await page.getByRole("button", { name: "Switch" }).click();
    await page.waitForURL("**/switches");
    return before;
  }

  /** Does something with exactly these faults on; afterwards they are as before, since the tests of a worker share its demo. */
  async withFaults(page: Page, names: string[], what: () => Promise<void>) {
    const before = await this.fault(page, names);
    try {
      await what();
    } finally {
      await this.fault(page, before);
    }
  }

  /** Sees to it that the newest run of the Join form is a whole one with the demo's own faults, and goes to it; a test that needs a run of its own calls runAll. */
  async hasRun(page: Page) {
    await page.goto(`${this.address}/sites/ostlewick/forms/join/run`);
    await page.waitForLoadState("networkidle");
    if (!(await page.getByText(/Run \d+ finished, 166 of 166 cases, 8 odd/).isVisible())) await runAll(page, this.address);
  }
}

export const test = base.extend<object, { demo: Demo }>({
  // no page of Odd Tick's own may break its Content-Security-Policy
  page: async ({ page, demo }, use) => {
    const broken: string[] = [];
    page.on("console", (m) => {
      if (m.text().includes("Content Security Policy") && page.url().startsWith(demo.address)) broken.push(`${page.url()}: ${m.text()}`);
    });
    await use(page);
    expect(broken).toEqual([]);
  },
  demo: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright reads the fixtures wanted from the pattern
    async ({}, use) => {
      const demo = await new Demo().start();
      await use(demo);
      await demo.remove();
    },
    { scope: "worker", timeout: 180_000 },
  ],
});

export { expect };

/** How long a run may take: a busy machine takes several times what a free one does. */
export const whileItRuns = { timeout: 300_000 };

export async function signIn(page: Page, address: string) {
  await page.goto(address);
  await page.getByLabel("Name").fill("tester");
  await page.getByLabel("Password").fill("brook-side-42");
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page.getByRole("heading", { name: "Sites" })).toBeVisible();
}

/** Runs the cases shown and waits until the run has ended. */
export async function runAll(page: Page, address: string) {
  await page.goto(`${address}/sites/ostlewick/forms/join/cases`);
  await expect(page.getByRole("button", { name: /^Run these/ })).toBeEnabled();
  await page.keyboard.press("Control+Enter");
  await page.waitForURL("**/run");
  await expect(page.getByText(/Run \d+ finished, 166 of 166 cases/)).toBeVisible(whileItRuns);
}

/** Takes in a project file through the API, as the page that is signed in. */
export async function takeIn(page: Page, project: string) {
  const answer = await page.evaluate(async (text) => {
    const session = await (await fetch("/api/session")).json();
    const headers = { "Content-Type": "application/yaml", "X-Oddtick-Token": session.token };
    const got = await fetch("/api/projects", { method: "POST", headers, body: text });
    return `${got.status} ${await got.text()}`;
  }, project);
  expect(answer).toMatch(/^200 /);
}
