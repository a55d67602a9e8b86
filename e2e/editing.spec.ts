import type { Page } from "@playwright/test";
import { Demo, expect, signIn, takeIn, test, whileItRuns } from "./demo";

let demo: Demo;
const form = "/sites/ostlewick/forms/join";

test.beforeAll(async () => {
  demo = await new Demo().start();
});
test.afterAll(async () => demo.remove());
test.describe.configure({ mode: "serial" });

const cell = (page: Page, name: string) => page.getByLabel(name, { exact: true });
const saved = (page: Page, words: string) => expect(page.getByRole("status").filter({ hasText: words }).first()).toBeVisible();

test("a rule is edited in place: what would come of it is said while one types, and it can be undone and done again", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address + form}/rules`);
  const most = cell(page, "Greatest length of username.length");
  await most.fill("5");
  await expect(page.getByRole("status").filter({ hasText: /cases: .*\d+ (added|removed|changed)/ })).toBeVisible();
  // the scale beside it shows the limit that is being typed
  const scale = page.getByRole("rowgroup", { name: "Username" }).locator("th");
  await expect(scale.getByText("6", { exact: true })).toBeVisible();
  await most.press("Escape");
  await expect(most).toHaveValue("20");
  await expect(scale.getByText("21", { exact: true })).toBeVisible();
  await most.fill("25");
  await most.press("Enter");
  await saved(page, "Username, length, max: 25 instead of 20");
  await expect(page.getByText("revision 2")).toBeVisible();
  await page.getByRole("heading", { name: "Across fields" }).click();
  await page.keyboard.press("Control+z");
  await expect(most).toHaveValue("20");
  await page.keyboard.press("Control+y");
  await expect(most).toHaveValue("25");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(most).toHaveValue("20");
  await page.reload();
  await expect(most).toHaveValue("20");
  // what was told can be read again, also after a reload
  await page.keyboard.press("?");
  const told = page.getByRole("dialog").getByRole("listitem");
  await expect(told.first()).toContainText("Username, length, max: 20 instead of 25");
  await expect(told.filter({ hasText: "25 instead of 20" }).first()).toBeVisible();
});

test("when the page's own messages come is promised for all of them, or for one, and tried by a mistake", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address}/sites/ostlewick/forms/help/rules`);
  const one = cell(page, "When the message of name.name_first comes");
  await expect(one).toHaveValue("blur");
  await expect(cell(page, "When the message of name.required comes")).toHaveCount(0);
  await one.selectOption("submit");
  await expect(page.getByText("revision 2")).toBeVisible();
  await expect(one).toHaveValue("submit");
  await expect(cell(page, "When the message of phone.phone_first comes")).toHaveValue("blur");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(one).toHaveValue("blur");
  await cell(page, "When the page's own messages appear").selectOption("");
  await expect(one).toHaveValue("");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(one).toHaveValue("blur");
  await page.goto(`${demo.address}/sites/ostlewick/forms/help/case?id=${encodeURIComponent("help/hours.range_first.corrected/browser")}`);
  await page.getByRole("button", { name: "Run only this case" }).click();
  await expect(page.getByText(/finished, 1 of 1 cases, 0 odd/)).toBeVisible(whileItRuns);
  await page.goto(`${demo.address}/sites/ostlewick/forms/help/case?id=${encodeURIComponent("help/hours.range_first.corrected/browser")}`);
  await expect(page.getByText("First entered in hours, and corrected:")).toBeVisible();
  await expect(page.getByText("on leaving the field")).toBeVisible();
});

test("what cannot hold together is named where it is, with its proof, and in the strip", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address + form}/rules`);
  await cell(page, "Least length of username.length").fill("33");
  await cell(page, "Least length of username.length").press("Enter");
  const username = page.getByRole("rowgroup", { name: "Username" });
  await expect(username.getByText("The minimum 33 of Username is above its maximum 20: no value can pass.")).toBeVisible();
  await expect(username.getByText("33 is more than 20")).toBeVisible();
  await expect(page.getByRole("link", { name: "Rules 23, 1 contradiction" })).toBeVisible();
  // it can be run all the same
  await page.getByRole("link", { name: "Cases" }).click();
  await expect(page.getByRole("button", { name: /^Run these/ })).toBeEnabled();
  await page.getByRole("link", { name: "Rules" }).click();
  await cell(page, "Least length of username.length").fill("3");
  await cell(page, "Least length of username.length").press("Enter");
  await expect(page.getByText("no contradictions")).toBeVisible();
});

test("a wrong value is refused with the reason, and nothing is saved", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address + form}/rules`);
  const pattern = cell(page, "Pattern of username.pattern");
  await pattern.fill("[a-");
  await pattern.press("Enter");
  await expect(page.getByRole("alert")).toContainText("the class is never closed");
  await page.reload();
  await expect(pattern).toHaveValue("[A-Za-z0-9\\-]+");
});

test("of two who edit the same form the second is told what changed, and chooses", async ({ page, browser }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address + form}/form`);
  await expect(cell(page, "Label of email")).toHaveValue("E-mail");
  const other = await (await browser.newContext()).newPage();
  await signIn(other, demo.address);
  await other.goto(`${demo.address + form}/form`);
  await cell(other, "Label of username").fill("Your name");
  await cell(other, "Label of username").press("Enter");
  await saved(other, "Your name");
  await expect(page.getByText(/^tester has saved revision \d+: Your name, label/)).toBeVisible(); // before anything is done
  await cell(page, "Label of email").fill("Mail");
  await cell(page, "Label of email").press("Enter");
  await expect(page.getByRole("alert")).toContainText("was saved in the meantime by tester: Your name, label: “Your name” instead of “Username”");
  await page.getByRole("button", { name: "Apply my change to it" }).click();
  await expect(cell(page, "Label of email")).toHaveValue("Mail");
  await expect(cell(page, "Label of username")).toHaveValue("Your name");
  await other.reload();
  await cell(other, "Label of username").fill("Name");
  await cell(other, "Label of username").press("Enter");
  await page.getByRole("button", { name: "Show it" }).click();
  await expect(cell(page, "Label of username")).toHaveValue("Name");
  await other.close();
  // the revisions say so, and lead back
  await page.getByRole("button", { name: "Revisions" }).click();
  const list = page.getByRole("region", { name: "Revisions" });
  await expect(list.getByText("Mail, label: “Mail” instead of “E-mail”")).toBeVisible();
  await list.getByRole("listitem").last().getByRole("button", { name: "Restore" }).click();
  await expect(cell(page, "Label of email")).toHaveValue("E-mail");
  await expect(cell(page, "Label of username")).toHaveValue("Username");
});

test("a rule across fields is built of clauses, and read back as them", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address + form}/rules`);
  await page.getByText("add a rule across fields").click();
  await page.getByRole("button", { name: "as clauses" }).last().click();
  await cell(page, "Field of clause 1").last().selectOption("heard");
  await cell(page, "Comparison of clause 1").last().selectOption("is not");
  await cell(page, "Value of clause 1").last().fill("od");
  await page.getByRole("button", { name: "add a clause" }).last().click();
  await cell(page, "Field of clause 2").last().selectOption("plots");
  await cell(page, "Comparison of clause 2").last().selectOption("<=");
  await cell(page, "Value of clause 2").last().fill("2");
  await cell(page, "How many clauses must hold").last().selectOption("some");
  await expect(cell(page, "New expression")).toHaveValue('heard != "od" || plots <= 2');
  await page.getByRole("region", { name: "Across fields" }).getByRole("button", { name: "Add", exact: true }).click();
  await expect(cell(page, "Expression of across.across_1")).toHaveValue('heard != "od" || plots <= 2');
  await expect(cell(page, "How many clauses must hold").first()).toHaveValue("some");
  await cell(page, "Expression of across.across_1").fill('size(heard) + "x" > 2');
  await cell(page, "Expression of across.across_1").press("Enter");
  await expect(page.getByRole("alert")).toContainText("no matching overload");
  await page.getByRole("button", { name: "Remove across.across_1" }).click();
  await expect(cell(page, "Expression of across.across_1")).toHaveCount(0);
});

test("a text is read, what was read of it is marked, and taken by keys alone", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address + form}/form?from=text`);
  const region = page.getByRole("region", { name: "From a user story or help text" });
  await region
    .getByLabel("Text", { exact: true })
    .fill("As a holder I want an account. Username: 4 to 20 characters. Given I join, when I leave the membership number blank, then I see “Enter it.”");
  await page.keyboard.press("Control+Enter");
  const read = page.getByRole("region", { name: "What was read", exact: true });
  await expect(read.locator("mark")).toHaveText(["Username: 4 to 20 characters.", "Given I join, when I leave the membership number blank, then I see “Enter it.”"]);
  const list = page.getByRole("list", { name: "Proposals" });
  await expect(list.getByRole("listitem").filter({ hasText: "currently: Server: 3 to 20 characters" })).toContainText("Username: 4 to 20 characters.");
  await expect(list.getByRole("listitem").filter({ hasText: "Enter it." }).getByRole("checkbox")).toBeChecked();
  await region.getByLabel("Text", { exact: true }).fill("Nothing of use.");
  await page.keyboard.press("Control+Enter");
  await expect(region).toContainText("No sentence says anything of a field that could be read.");
});

test("a recorded request becomes fields of a form that nobody has described", async ({ page }) => {
  await signIn(page, demo.address);
  const site = page.getByRole("region", { name: "Ostlewick Allotments" });
  await site.getByText("Add a form").click();
  await site.getByLabel("Title").fill("Recorded");
  await site.getByLabel("Path of the page").fill("/join");
  await site.getByLabel("Path of the page").press("Enter");
  await page.waitForURL("**/forms/recorded/form");
  await page.getByRole("button", { name: "Recorded request" }).click();
  const region = page.getByRole("region", { name: "From a recorded request" });
  await region.getByLabel("Recorded request", { exact: true }).fill("curl 'http://127.0.0.1/join' -H 'Cookie: sid=abc' --data-raw 'username=fern&pass=brook-side&_token=xyz'");
  await page.keyboard.press("Control+Enter");
  await expect(region.getByRole("list", { name: "Proposals" })).toContainText("Username a field");
  await region.getByRole("button", { name: /^Apply \d+ of \d+$/ }).click();
  await expect(cell(page, "Request name of Username")).toHaveValue("username");
  await expect(page.getByText("brook-side")).toHaveCount(0);
});

test("a list of rules is read with a choice of columns, and nothing is overwritten unasked", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address + form}/form?from=list`);
  await page.getByLabel("List of rules", { exact: true }).fill("Parameter;Caption;Longest\nusername;Name of the holder;12\nfax;Fax;30\n");
  await page.getByRole("region", { name: "From a list of rules" }).getByRole("button", { name: "Read" }).click();
  await cell(page, "Meaning of Longest").selectOption("greatest length");
  const list = page.getByRole("list", { name: "Proposals" });
  const length = list.getByRole("listitem").filter({ hasText: "Server: at most 12 characters" });
  await expect(length).toContainText("currently: Server: 3 to 20 characters");
  await expect(length.getByRole("checkbox")).not.toBeChecked();
  await expect(list.getByRole("listitem").filter({ hasText: "a field" }).getByRole("checkbox")).toBeChecked();
  await page.getByRole("button", { name: /^Apply \d+ of \d+$/ }).click();
  await expect(cell(page, "Label of fax")).toHaveValue("Fax");
  await page.getByRole("link", { name: "Rules" }).click();
  await expect(cell(page, "Greatest length of username.length")).toHaveValue("20");
  await expect(cell(page, "Greatest length of fax.length")).toHaveValue("30");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(cell(page, "Greatest length of fax.length")).toHaveCount(0);
});

test("settings are kept, tried, and never show a secret again", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address}/sites/ostlewick/settings`);
  await page.getByRole("button", { name: "Add a header" }).click();
  const header = page.getByRole("group", { name: "Header 1" });
  await header.getByLabel("Name").fill("X-Stage");
  await header.getByLabel("Value").fill("very-secret");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText("Saved.")).toBeVisible();
  await page.reload();
  await expect(header.getByLabel("Value")).toHaveValue("");
  await expect(header.getByLabel("Value")).toHaveAttribute("placeholder", "kept");
  await page.getByRole("button", { name: "Test connection" }).click();
  await expect(page.getByRole("list", { name: "Result of the test" })).toContainText("7 tables watched");
  await cell(page, "Address").fill("nowhere");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByRole("alert")).toContainText("must begin with");
  await cell(page, "Address").fill("http://127.0.0.1:9");
  await expect(page.getByText(/Passwords and headers were entered for http/)).toBeVisible();
  await expect(header.getByLabel("Value")).toHaveAttribute("placeholder", "enter again");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByRole("alert")).toContainText("the header X-Stage. Enter them again");
});

test("one submission by hand: expected while typing, judged once sent", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address + form}/try`);
  const expected = page.getByRole("region", { name: "Expected" });
  await expect(expected.getByText("Every rule is satisfied.")).toBeVisible();
  await cell(page, "Plots wanted").fill("9");
  await expect(expected.getByText("Plots wanted is out of range.")).toBeVisible();
  await page.keyboard.press("Control+Enter");
  await expect(page.getByRole("heading", { name: "Rejected, as expected" })).toBeVisible();
  await cell(page, "Plots wanted").fill("2");
  await cell(page, "Username").fill("a-name-of-21-letters-");
  await page.keyboard.press("Control+Enter");
  await expect(page.getByRole("heading", { name: "stored cut to" })).toBeVisible();
});

test("keys move a choice, and Enter keeps it", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address + form}/rules`);
  const revision = page.getByText(/revision \d+/).first();
  const before = await revision.innerText();
  const unit = cell(page, "Unit of username.length");
  const was = await unit.inputValue();
  await unit.focus();
  await page.keyboard.press("ArrowDown");
  await expect(unit).not.toHaveValue(was);
  await page.keyboard.press("Escape");
  await expect(unit).toHaveValue(was);
  await page.keyboard.press("ArrowDown");
  const next = await unit.inputValue();
  await expect(revision).toHaveText(before);
  await page.keyboard.press("Enter");
  await expect(page.getByText(before)).toHaveCount(0);
  await expect(unit).toHaveValue(next);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(unit).toHaveValue(was);
});

test("what two people type: previews go on, and what is discarded is gone from the cell", async ({ page, browser }) => {
  await signIn(page, demo.address);
  const other = await (await browser.newContext()).newPage();
  await signIn(other, demo.address);
  await page.goto(`${demo.address + form}/rules`);
  await other.goto(`${demo.address + form}/rules`);
  await cell(other, "Greatest length of email.length").fill("180");
  await cell(other, "Greatest length of email.length").press("Enter");
  await saved(other, "180 instead of 190");
  const most = cell(page, "Greatest length of username.length");
  await most.fill("30");
  await expect(page.getByRole("status").filter({ hasText: /cases: .*\d+ (added|removed|changed)/ })).toBeVisible();
  await most.press("Enter");
  await expect(page.getByRole("alert")).toContainText("Your change is not saved yet.");
  await page.getByRole("button", { name: "Discard mine" }).click();
  await expect(most).toHaveValue("20");
  await expect(cell(page, "Greatest length of email.length")).toHaveValue("180");
  await other.getByRole("button", { name: "Undo" }).click();
  await expect(cell(other, "Greatest length of email.length")).toHaveValue("190");
  await other.context().close();
});

test("settings that are not saved ask before they are left", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address}/sites/ostlewick/settings`);
  await cell(page, "Title").fill("Ostlewick once more");
  await page.getByRole("link", { name: "Sites", exact: true }).click();
  await expect(page.getByRole("alert")).toContainText("Your changes are not saved.");
  await page.getByRole("button", { name: "Stay here" }).click();
  await expect(cell(page, "Title")).toHaveValue("Ostlewick once more");
  await page.getByRole("link", { name: "Sites", exact: true }).click();
  await page.getByRole("button", { name: "Leave without saving" }).click();
  await expect(page.getByRole("region", { name: "Ostlewick Allotments" })).toBeVisible();
});

test("a message that a trace saw is given to a rule with a key", async ({ page }) => {
  await signIn(page, demo.address);
  await takeIn(
    page,
    `site: gate\ntitle: The gate\naddress: ${demo.practice}\n---\nform: join\ntitle: Join\npage: /join\nfields: [{name: username, label: Username, rules: [{required: {}}, {length: {min: 3, max: 20}}]}]\n`,
  );
  await page.goto(`${demo.address}/sites/gate/forms/join/form?from=trace`);
  const trace = page.getByRole("region", { name: "Trace" });
  await trace.getByLabel("Username").fill("x");
  await page.keyboard.press("Control+Enter");
  const rule = trace.getByRole("combobox", { name: "Rule that says “Use 3 to 20 characters.”" });
  await rule.focus();
  await page.keyboard.press("ArrowDown"); // required
  await page.keyboard.press("ArrowDown"); // length
  await page.keyboard.press("Enter");
  await expect(page.getByText("revision 2")).toBeVisible();
  await page.goto(`${demo.address}/sites/gate/forms/join/rules`);
  await expect(cell(page, "Message of username.length")).toHaveValue("Use 3 to 20 characters.");
});
