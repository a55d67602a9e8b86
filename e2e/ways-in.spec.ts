import type { Page } from "@playwright/test";
import { Demo, expect, signIn, test } from "./demo";

let demo: Demo;
const form = "/sites/ostlewick/forms/loan/form";

test.beforeAll(async () => {
  demo = await new Demo().start();
});
test.afterAll(async () => demo.remove());
test.describe.configure({ mode: "serial" });

const cell = (page: Page, name: string) => page.getByLabel(name, { exact: true });
const take = async (page: Page) => page.getByRole("button", { name: /^Apply \d+ of \d+$/ }).click();
const proposals = (page: Page) => page.getByRole("list", { name: "Proposals" }).getByRole("listitem");

test("a form is begun, and an empty one says what to do", async ({ page }) => {
  await signIn(page, demo.address);
  const site = page.getByRole("region", { name: "Ostlewick Allotments" });
  await site.getByText("Add a form").click();
  await site.getByLabel("Title").fill("Loan");
  await site.getByLabel("Path of the page").fill("/join");
  await site.getByLabel("Path of the page").press("Enter");
  await page.waitForURL(`**${form}`);
  await expect(page.getByText("The form has no fields yet.")).toBeVisible();
  await expect(page.getByRole("heading", { name: "From the page" })).toBeVisible();
  await page.goto(`${demo.address}/sites/ostlewick/forms/loan/rules`);
  await expect(page.getByText("no contradictions")).toBeVisible();
  await page.goto(`${demo.address}/sites/ostlewick/forms/loan/cases`);
  await page.getByRole("button", { name: /^Run these/ }).click();
  await expect(page.getByRole("alert")).toContainText("has no fields yet");
});

test("of several forms of a page one is chosen, and what browsers ignore is told", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(demo.address + form);
  await page.getByText("or paste HTML").click();
  await cell(page, "HTML").fill(`
    <h2>Sign in</h2><form action=/in method=post><label>Who <input name=who></label><label>Word <input name=word type=password></label><label>Stay <input type=checkbox name=stay></label><button>In</button></form>
    <h2>Borrow</h2><form action=/borrow method=post><label>Tool * <input name=tool pattern="[A-Za-z0-9-]+" maxlength=6></label><input placeholder=Nameless><button>Borrow</button></form>
    <script>document.title = "must not run"</script>`);
  await page.getByRole("button", { name: "Read", exact: true }).click();
  await expect(proposals(page).filter({ hasText: "title: Sign in" })).toBeVisible();
  await page.getByLabel("Which form").selectOption({ index: 1 });
  await expect(proposals(page).filter({ hasText: "title: Borrow" })).toBeVisible();
  await page.getByLabel("Which form").selectOption({ index: 0 });
  await expect(proposals(page).filter({ hasText: "title: Sign in" })).toBeVisible();
  await page.getByLabel("Which form").selectOption({ index: 1 });
  await expect(page.getByText("Browsers ignore its pattern [A-Za-z0-9-]+")).toBeVisible();
  await expect(page.getByText("Nameless: It has no name")).toBeVisible();
  await expect(page).not.toHaveTitle("must not run");
  await take(page);
  await expect(cell(page, "Label of tool")).toHaveValue("Tool");
  await expect(cell(page, "Target")).toHaveValue("/borrow");
});

test("SQL of another dialect gives columns with how sure they are, errors with line and column", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address}${form}?from=tables`);
  await page.getByText("SQL", { exact: true }).click();
  await cell(page, "SQL").fill("CREATE TABLE tools (\n  code varchar(4) nott null\n);");
  await page.getByRole("button", { name: "Read the SQL" }).click();
  await expect(page.getByRole("alert")).toContainText("line 2, column 19: nott is not an attribute of the column code");
  await cell(page, "SQL").fill(
    "CREATE TABLE other (x int);\nCREATE TABLE tool_loans (id bigserial PRIMARY KEY, tool character varying(4) NOT NULL UNIQUE, made timestamptz NOT NULL DEFAULT now());",
  );
  await page.getByRole("button", { name: "Read the SQL" }).click();
  await expect(page.getByLabel("Stored in")).toHaveValue("tool_loans");
  await expect(proposals(page).filter({ hasText: "tool_loans.tool from tool" })).toContainText("unsure");
  await expect(proposals(page).filter({ hasText: "Server: unique" })).toBeVisible();
  await take(page);
  await expect(page.getByRole("heading", { name: "When accepted, a row is written to tool_loans" })).toBeVisible();
  // the page lets six characters through, the column holds four
  await page.getByRole("link", { name: /^Rules/ }).click();
  await cell(page, "Add a rule for Tool").selectOption("length");
  await cell(page, "Greatest length of tool.length_2").fill("6");
  await cell(page, "Greatest length of tool.length_2").press("Enter");
  await expect(page.getByText("Tool allows 6 characters, but the column tool_loans.tool holds 4.")).toBeVisible();
  await page.getByRole("button", { name: "Compare layers" }).click();
  const row = page.getByRole("row", { name: /^Tool/ });
  await expect(row).toContainText("at most 6 UTF-16 units");
  await expect(row).toContainText("tool_loans.tool character varying(4), NOT NULL, unique");
  await expect(row).toContainText("the column tool_loans.tool holds 4");
});

test("a request body of an OpenAPI document becomes fields", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address}${form}?from=schema`);
  const box = cell(page, "JSON Schema or OpenAPI");
  await box.fill('{"properties": {"a": {"$ref": "#"}}}');
  await page.getByRole("region", { name: "From a JSON Schema" }).getByRole("button", { name: "Read" }).click();
  await expect(page.getByRole("alert")).toContainText("leads back to itself");
  await box.fill(
    "openapi: 3.0.0\npaths:\n  /a: {post: {requestBody: {content: {application/json: {schema: {type: object, properties: {x: {type: string}}}}}}}}\n  /b: {put: {requestBody: {content: {application/json: {schema: {type: object, required: [days], properties: {days: {type: integer, minimum: 1, title: Days}}}}}}}}\n",
  );
  await page.getByRole("region", { name: "From a JSON Schema" }).getByRole("button", { name: "Read" }).click();
  await page.getByRole("region", { name: "From a JSON Schema" }).getByLabel("Request").selectOption("PUT /b");
  await expect(proposals(page).filter({ hasText: "Days" })).toContainText("at least 1");
  await page.getByRole("button", { name: "None" }).click();
  await expect(page.getByRole("button", { name: "Apply 0 of" })).toBeDisabled();
  await page.getByRole("button", { name: "All" }).click();
  await expect(page.getByRole("button", { name: /^Apply [1-9]/ })).toBeEnabled();
});

test("an address outside the site is refused, and the project file can be taken away", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address}${form}?from=page`);
  await page.getByLabel("Path or address").fill("http://192.0.2.7/join");
  await page.getByRole("button", { name: "Read", exact: true }).click();
  await expect(page.getByRole("alert")).toContainText("192.0.2.7 is not among the site's allowed addresses");
  await page.getByRole("button", { name: "Revisions" }).click();
  const answer = await page.request.get(`${demo.address}/api/sites/ostlewick/project`);
  const text = await answer.text();
  expect(text).toContain("# What the Join form of Ostlewick Allotments promises");
  expect(text).toContain("form: loan");
  expect(text).not.toContain("tcp(");
  await expect(page.getByRole("link", { name: "Project file" })).toHaveAttribute("href", "/api/sites/ostlewick/project");
});
