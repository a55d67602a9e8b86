import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";
import { Demo, expect, signIn, test } from "./demo";

const rounds = Number(process.env.ODDTICK_KILLS ?? 0);

// Kills the server, its database or its browser at random moments of runs, or asks the server to end. It is asked for by make kill.
test("whatever is killed in the middle of a run, no result is lost or doubled, and the run ends", async ({ page }) => {
  test.skip(rounds === 0, "asked for by make kill");
  test.setTimeout(rounds * 120_000);
  const demo = await new Demo().start();
  const count: Record<string, number> = {};
  let unknown = 0;
  let unseen = 0;
  let undisturbed: Record<string, string> | undefined;
  const differing: string[] = [];
  try {
    await signIn(page, demo.address);
    for (let round = -1; round < rounds; round++) {
      // the first is left alone, to compare the others with
      const victim = round < 0 ? "nothing" : (["server", "database", "browser", "server, by SIGTERM"][round % 4] ?? "server");
      const started = await page.evaluate(async () => {
        const session = await (await fetch("/api/session")).json();
        const headers = { "Content-Type": "application/json", "X-Oddtick-Token": session.token };
        const answer = await fetch("/api/sites/ostlewick/forms/join/runs", { method: "POST", headers, body: JSON.stringify({ depth: "standard" }) });
        return `${answer.status} ${await answer.text()}`;
      });
      expect(started).toMatch(/^201 /);
      const number = JSON.parse(started.slice(4)).run;
      await new Promise((done) => setTimeout(done, 200 + Math.random() * 7000));
      if (round >= 0) {
        await kill(demo, victim);
        count[victim] = (count[victim] ?? 0) + 1;
      }
      if (victim.startsWith("server")) {
        await demo.start();
        await page.context().clearCookies();
        await signIn(page, demo.address);
      }
      const run = async () => page.evaluate(async (n) => (await fetch(`/api/sites/ostlewick/forms/join/runs/${n}`)).json(), number);
      await expect.poll(async () => (await run()).run?.state, { timeout: 110_000, intervals: [500] }).toBe("finished");
      const end = await run();
      expect(end.run.done, `round ${round}, ${victim}`).toBe(end.run.total);
      const cases = end.marks.map((m: { case: string }) => m.case);
      expect(new Set(cases).size).toBe(end.run.total);
      unknown += (end.run.unknown ?? []).length;
      unseen += end.run.unseen;
      const verdicts = Object.fromEntries(end.marks.map((m: { case: string; verdict: string }) => [m.case, m.verdict]));
      undisturbed ??= verdicts;
      for (const [id, verdict] of Object.entries(verdicts)) {
        if (verdict !== undisturbed[id]) differing.push(`${victim}: ${id} is ${verdict}`);
      }
    }
    console.log(
      `killed: ${JSON.stringify(count)}; runs completed: ${rounds}; submissions whose end is not known, named and made again: ${unknown}; cases not observed: ${unseen}; verdicts other than those of an undisturbed run: ${differing.length} ${differing.join(", ")}`,
    );
    expect(differing).toEqual([]);
  } finally {
    await demo.remove();
  }
});

async function kill(demo: Demo, victim: string) {
  if (victim.startsWith("server")) {
    await demo.stop(victim === "server" ? "SIGKILL" : "SIGTERM");
    return;
  }
  if (victim === "browser") {
    const pids = children(demo.pid()).filter((pid) => readFileSync(`/proc/${pid}/cmdline`, "utf8").includes("--user-data-dir"));
    for (const pid of pids) process.kill(pid, "SIGKILL");
    return;
  }
  process.kill(demo.databasePid(), "SIGKILL"); // the demo starts it again
}

function children(pid: number): number[] {
  try {
    return execFileSync("pgrep", ["-P", String(pid)], { encoding: "utf8" })
      .trim()
      .split("\n")
      .map(Number);
  } catch {
    return []; // there are none
  }
}
