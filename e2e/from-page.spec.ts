import type { Locator, Page } from "@playwright/test";
import { Demo, expect, signIn, test, whileItRuns } from "./demo";

/** Counts what hands do: clicks, choices from a list as one click, and keys, a character each. */
class Hands {
  clicks = 0;
  keys = 0;
  constructor(readonly page: Page) {}
  async click(at: Locator) {
    this.clicks++;
    await at.click();
  }
  async choose(at: Locator, option: string) {
    this.clicks++;
    await at.selectOption(option);
  }
  async type(at: Locator, text: string, key = "") {
    this.clicks++;
    this.keys += text.length + (key ? 1 : 0);
    await at.fill(text);
    if (key) await at.press(key);
  }
}

const saved = (page: Page, words: string | RegExp) => expect(page.getByRole("status").filter({ hasText: words }).first()).toBeVisible();

test("from an empty project to the Join form's complete specification, with the same verdicts as the shipped file", async ({ page }) => {
  const demo = await new Demo().start();
  try {
    const dsn = /Its database is (\S+)/.exec(demo.output)?.[1] ?? "";
    await signIn(page, demo.address);
    const hands = new Hands(page);
    page.setDefaultTimeout(12_000);
    // a site and a form
    await hands.click(page.getByText("Add a site", { exact: true }));
    const begin = page.getByRole("form", { name: "Add a site" });
    await hands.type(begin.getByLabel("Title"), "Ostlewick anew");
    await hands.type(begin.getByLabel("Address"), demo.practice);
    await hands.choose(begin.getByLabel("Kind of database"), "Data source name");
    await hands.type(begin.getByLabel("Data source name"), dsn, "Enter");
    const site = page.getByRole("region", { name: "Ostlewick anew" });
    await hands.type(site.getByLabel("Title"), "Join anew");
    await hands.type(site.getByLabel("Path of the page"), "/join", "Enter");
    // its page
    await page.waitForURL("**/forms/join_anew/form");
    await hands.click(page.getByRole("button", { name: "Read", exact: true }));
    await hands.click(page.getByRole("button", { name: /^Apply \d+ of \d+$/ }));
    await expect(page.getByRole("table", { name: "Fields in page order" }).getByRole("row")).toHaveCount(12);
    // a trace, with the values that nobody can guess
    await expect(page.getByRole("heading", { name: "Trace" })).toBeVisible();
    await hands.type(page.getByLabel("Username", { exact: true }), "moss-gate-4");
    await hands.type(page.getByLabel("E-mail", { exact: true }), "moss.gate@example.test");
    await hands.type(page.getByLabel("Password", { exact: true }), "brook-side-42");
    await hands.type(page.getByLabel("Password again", { exact: true }), "brook-side-42");
    await hands.type(page.getByLabel("Membership number, if you have one", { exact: true }), "OS-0417");
    await hands.type(page.getByLabel("Date of birth", { exact: true }), "1974-03-07");
    await hands.type(page.getByLabel("Plots wanted", { exact: true }), "2", "Control+Enter");
    await expect(page.getByText(/^Accepted: status 303/)).toBeVisible(whileItRuns);
    await hands.click(page.getByRole("button", { name: /^Apply \d+ of \d+$/ }));
    await expect(page.getByRole("heading", { name: /When accepted, a row is written to plot_holders/ })).toBeVisible();
    // what cannot be found out: this site keeps the case of addresses, though it promises not to
    await hands.type(page.getByLabel("Steps of E-mail", { exact: true }), "trim, lower", "Enter");
    await saved(page, "normalize");
    await hands.click(page.getByRole("link", { name: "Rules" }));
    const rule = async (label: string, id: string, kind: string, values: [string, string][], message: string) => {
      await hands.choose(page.getByRole("combobox", { name: `Add a rule for ${label}`, exact: true }), kind);
      await saved(page, `new rule ${kind}`);
      for (const [what, value] of values) {
        const at = page.getByLabel(`${what} of ${id}`, { exact: true });
        if ((await at.evaluate((n) => n.tagName)) === "SELECT") await hands.choose(at, value);
        else await hands.type(at, value, "Enter");
        await saved(page, value);
      }
      await hands.type(page.getByLabel(`Message of ${id}`, { exact: true }), message, "Enter");
      await saved(page, message);
    };
    await rule(
      "Username",
      "username.length",
      "length",
      [
        ["Least length", "3"],
        ["Greatest length", "20"],
      ],
      "Use 3 to 20 characters.",
    );
    await rule("Username", "username.pattern", "pattern", [["Pattern", "[A-Za-z0-9\\-]+"]], "Use letters, digits and hyphens only.");
    await rule("E-mail", "e_mail.length", "length", [["Greatest length", "190"]], "Use at most 190 characters.");
    await rule(
      "Password",
      "pass.length",
      "length",
      [
        ["Least length", "10"],
        ["Greatest length", "72"],
        ["Unit", "bytes"],
      ],
      "Use 10 to 72 bytes.",
    );
    await rule("Password", "pass.pattern", "pattern", [["Pattern", "(?=.*[A-Za-z])(?=.*[0-9]).*"]], "Use at least a letter and a digit.");
    await rule("Membership number, if you have one", "member_no.pattern", "pattern", [["Pattern", "OS-[0-9]{4}"]], "A membership number is OS- and four digits.");
    await rule(
      "Date of birth",
      "born_on.range",
      "range",
      [
        ["Minimum", "1900-01-01"],
        ["Maximum", "today - 18 years"],
        ["Time zone", "Europe/London"],
      ],
      "You must be 18 or over.",
    );
    // this site compares names exactly, though it promises otherwise
    await hands.type(page.getByLabel("Differences ignored of username.unique", { exact: true }), "case", "Enter");
    await saved(page, "ignoring");
    await expect(page.getByText("no contradictions")).toBeVisible();
    console.log(`from an empty project to the complete specification: ${hands.clicks} clicks, ${hands.keys} keys`);
    // the same verdicts as the shipped file's
    await hands.click(page.getByRole("link", { name: "Cases" }));
    await expect(page.getByRole("button", { name: /^Run these/ })).toBeEnabled();
    await page.keyboard.press("Control+Enter");
    await page.waitForURL("**/run");
    await expect(page.getByText(/Run 1 finished, (\d+) of \1 cases/)).toBeVisible(whileItRuns);
    const causes = page.getByRole("complementary", { name: "Odd so far" }).getByRole("listitem");
    await expect(causes).toHaveCount(5);
    for (const headline of [
      "Username of 21 characters accepted (promised: 3 to 20 characters), stored cut to 20 characters",
      "E-mail stored with other capitals than promised (plot_holders.mail)",
      /“OS-\d+” stored instead of “OS-0\d+” \(plot_holders.membership\)/,
      /Message for Date of birth shown at the wrong place/,
      "Username accepted twice when only its capitals differ",
    ])
      await expect(causes.filter({ hasText: headline })).toHaveCount(1);
  } finally {
    await demo.remove();
  }
});
