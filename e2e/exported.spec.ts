import { execFile } from "node:child_process";
import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { promisify } from "node:util";
import { expect, signIn, test } from "./demo";
import config from "./playwright.config";

const run = promisify(execFile);
const binary = process.env.ODDTICK_BIN ?? join(import.meta.dirname, "../bin/oddtick");

/** Cases that the demo's faults make odd, and cases that are as expected. */
const odd = ["join/username.length.max+1/http", "join/email.lower.other/http"];
const fine = [
  "join/username.blank/http",
  "join/plots.range.max/http",
  "join/plots.range.max+1/http",
  "join/heard.blank/http",
  "join/username.unique.same/http",
  "join/born.range.max/http",
];

type Outcome = { title: string; ok: boolean };

test("exported cases run with Playwright alone: odd ones fail, the others pass", async ({ page, demo }, info) => {
  await signIn(page, demo.address);
  await demo.hasRun(page);
  const number = Number(/Run (\d+)/.exec(await page.getByText(/Run \d+ finished/).innerText())?.[1]);
  const answer = await page.request.get(`${demo.address}/api/sites/ostlewick/forms/join/runs/${number}/report/json`);
  await writeFile(info.outputPath("result.json"), await answer.body());
  const folder = info.outputPath("exported");
  await run("mkdir", ["-p", folder]);
  await run(binary, ["report", info.outputPath("result.json"), "--playwright", join(folder, "join.spec.ts"), ...[...odd, ...fine].flatMap((id) => ["--case", id])]);
  const database = /Its database is root@tcp\(([^)]+)\)\/ostlewick/.exec(demo.output)?.[1];
  await writeFile(
    join(folder, "playwright.config.mjs"),
    `export default ${JSON.stringify({ testDir: ".", outputDir: "./out", workers: 1, timeout: 30_000, expect: { timeout: 3_000 }, reporter: [["json", { outputFile: "outcome.json" }]], use: config.use })};\n`,
  );
  const again = async (db: string) => {
    const env = { ...process.env, SITE: demo.practice, DATABASE: db };
    const ended = await run("npx", ["--no-install", "playwright", "test", "-c", join(folder, "playwright.config.mjs")], { cwd: folder, env }).catch((e: { code: number }) => e);
    const { default: report } = await import(`${join(folder, "outcome.json")}?${Math.random()}`, { with: { type: "json" } });
    const list: Outcome[] = report.suites.flatMap((s: { specs: Outcome[] }) => s.specs.map((x) => ({ title: x.title, ok: x.ok })));
    return { failed: "code" in ended, list };
  };
  const ok = (list: Outcome[], id: string) => list.find((o) => o.title.startsWith(`${id}:`))?.ok;
  const seen = await again(`mysql://root@${database}/ostlewick`);
  expect(seen.failed).toBe(true);
  for (const id of odd) expect(ok(seen.list, id), `${id} is odd`).toBe(false);
  for (const id of fine) expect(ok(seen.list, id), `${id} is as expected`).toBe(true);
  await demo.withFaults(page, [], async () => {
    const mended = await again(`mysql://root@${database}/ostlewick`);
    for (const id of [...odd, ...fine]) expect(ok(mended.list, id), `${id}, mended`).toBe(true);
    expect(mended.failed).toBe(false);
  });
});
