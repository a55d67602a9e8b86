import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Page } from "@playwright/test";
import { parse } from "yaml";
import { isMembers, type Members, type Schema, shapeOf, type Value } from "../web/src/features/document/schema";
import { Demo, expect, signIn, test } from "./demo";

let demo: Demo;

test.beforeAll(async () => {
  // mails are read from a folder only where an administrator has listed it
  const contact = join(mkdtempSync(join(tmpdir(), "oddtick-contact-")), "contact.yaml");
  writeFileSync(contact, "hosts: [loopback]\ndatabases: [loopback]\nfolders: [/var/mail]\n");
  demo = await new Demo({ ODDTICK_CONTACT: contact }).start();
});
test.afterAll(async () => demo.remove());
test.describe.configure({ mode: "serial" });

const at = (path: string) => `[id="at-${path}"]`;
const words = (key: string) => key.replaceAll("_", " ");
const within = (path: string, key: string | number) => (typeof key === "number" ? `${path}[${key}]` : path ? `${path}.${key}` : key);

/** What was done to set each key, by type and key. */
const steps = new Map<string, string>();

/** The documents of docs/documents.md, each of which is read by a test of its own. */
const documented = [...readFileSync("../docs/documents.md", "utf8").matchAll(/```yaml\n([\s\S]*?)```/g)].map(
  (m) => parse(m[1] ?? "", { stringKeys: true }) as Record<string, Value>,
);

/** What stands at a path: the ways it can be written in, the text of its button for adding, its control's element. Closed parts are opened. */
const found = (page: Page, path: string) =>
  page.evaluate((p) => {
    for (const d of document.querySelectorAll("details:not([open])")) (d as HTMLDetailsElement).open = true;
    const by = (id: string) => document.getElementById(id);
    return {
      ways: [...(by(`at-${p}-way`)?.querySelectorAll("option") ?? [])].map((o) => o.textContent ?? ""),
      add: by(`at-${p}-add`)?.textContent ?? "",
      control: by(`at-${p}`)?.tagName ?? "",
      map: by(`at-${p}-key-0`) !== null,
    };
  }, path);

/** The way in which a value is written. */
function wayOf(ways: string[], value: Value): string {
  if (Array.isArray(value)) return "several";
  if (!isMembers(value)) return ways.includes("one of these") ? "one of these" : "a text";
  const keys = Object.keys(value).map(words);
  return ways.find((o) => keys.every((k) => o.split(", ").includes(k))) ?? "one per language";
}

/** Enters a value by the controls of its place, as somebody who writes the document does. */
async function enter(page: Page, path: string, value: Value): Promise<void> {
  let place = await found(page, path);
  if (place.ways.length > 0) {
    await page.locator(at(`${path}-way`)).selectOption({ label: wayOf(place.ways, value) });
    place = await found(page, path);
  }
  const add = page.locator(at(`${path}-add`));
  if (isMembers(value) && place.add === "Add …") {
    for (const [key, v] of Object.entries(value)) {
      const inner = within(path, key);
      const there = await found(page, inner);
      if (there.ways.length === 0 && !there.add && !there.control && !there.map) {
        await add.click();
        await page
          .getByRole("menuitem")
          .filter({ has: page.getByText(words(key), { exact: true }) })
          .click();
      }
      await enter(page, inner, v);
    }
  } else if (isMembers(value) && place.add) {
    for (const [i, [key, v]] of Object.entries(value).entries()) {
      await add.click();
      const name = page.locator(at(`${path}-key-${i}`));
      await name.fill(key);
      await name.press("Enter");
      await enter(page, within(path, key), v);
    }
  } else if (Array.isArray(value)) {
    for (const [i, v] of value.entries()) {
      await add.click();
      await enter(page, within(path, i), v);
    }
  } else {
    const control = page.locator(at(path));
    if (place.control === "SELECT") await control.selectOption(String(value));
    else await control.fill(isMembers(value) ? JSON.stringify(value) : value === null ? "" : String(value));
  }
}

/** A value with all that is not a list or an object as a text: 3 and "3" are read alike. */
function asTexts(value: Value): Value {
  if (Array.isArray(value)) return value.map(asTexts);
  if (isMembers(value)) return Object.fromEntries(Object.entries(value).map(([k, v]) => [k, asTexts(v)]));
  return String(value);
}

/** A value with messages and the keys of exports written in full, as they are where secrets were taken out beside them. */
function inFull(value: Value, key = ""): Value {
  if (typeof value === "string") return key.startsWith("message") ? { text: value } : key === "key" ? [value] : value;
  if (Array.isArray(value)) return value.map((v) => inFull(v));
  if (isMembers(value)) return Object.fromEntries(Object.entries(value).map(([k, v]) => [k, inFull(v, k)]));
  return value;
}

/** Notes each key of a value by the type that it belongs to. */
function note(root: Schema, schema: Schema, value: Value, path: string) {
  const shape = shapeOf(root, schema);
  if (shape.is === "either") {
    for (const s of shape.shapes) {
      const inner = shapeOf(root, s);
      const keys = inner.is === "object" ? inner.keys : null;
      if ((isMembers(value) && keys && Object.keys(value).every((k) => k in keys)) || (Array.isArray(value) && inner.is === "list")) note(root, s, value, path);
    }
  } else if (shape.is === "object" && isMembers(value))
    for (const [key, v] of Object.entries(value)) {
      steps.set(`${shape.name}.${key}`, `${path || "top"}: Add … › ${words(key)}`);
      note(root, shape.keys[key] ?? {}, v, within(path, key));
    }
  else if (shape.is === "list" && Array.isArray(value)) for (const [i, v] of value.entries()) note(root, shape.items, v, within(path, i));
  else if (shape.is === "map" && isMembers(value)) for (const [k, v] of Object.entries(value)) note(root, shape.values, v, within(path, k));
}

const schemaOf = (name: string) => JSON.parse(readFileSync(`../api/${name}.schema.json`, "utf8")) as Schema;

/** A certificate that signs nothing. */
const certificate = `-----BEGIN CERTIFICATE-----
MIIBnTCCAUOgAwIBAgIUDUcyTvmznkr0MT9rJmEzi3g34S0wCgYIKoZIzj0EAwIw
IzEhMB8GA1UEAwwYT3N0bGV3aWNrIHRlc3QgYXV0aG9yaXR5MCAXDTI2MTEzMDA2
NDk0N1oYDzIxMjYxMTA2MDY0OTQ3WjAjMSEwHwYDVQQDDBhPc3RsZXdpY2sgdGVz
dCBhdXRob3JpdHkwWTATBgcqhkjOPQIBBggqhkjOPQMBBwNCAARKBSX/1Yp/MLTw
ocBtEt4Cp07uJtl9NiJbg3t/uU78abCQZEGipuWCvI9LCWmlAUslKZeiD4GrdUnK
Es9T0ffTo1MwUTAdBgNVHQ4EFgQUt2g6qcgALTozlRxi9K4rFUCoNAwwHwYDVR0j
BBgwFoAUt2g6qcgALTozlRxi9K4rFUCoNAwwDwYDVR0TAQH/BAUwAwEB/zAKBggq
hkjOPQQDAgNIADBFAiEAgSQLmDl8j+Svk153PhCgDLBHpgo6/xulh2E+eaB/uvoC
IAvavOQBZ324WeAjzjx0wRQIWMPFvscdLkF1f3DycLAq
-----END CERTIFICATE-----\n`;

/** Enters a whole document in the interface, saves it, and notes what was saved. */
async function writes(page: Page, of: "form" | "site", example: Record<string, Value>) {
  await expect(page.getByRole("button", { name: "Guided", exact: true })).toBeVisible();
  for (const [key, v] of Object.entries(example)) {
    if (key === of || key === "page") continue; // the ids cannot change
    if ((await page.locator(`${at(key)}, ${at(`${key}-add`)}, ${at(`${key}-way`)}`).count()) > 0) {
      if (typeof v === "object") await page.getByRole("button", { name: `Remove ${words(key)}`, exact: true }).click();
    }
    await enter(page, "", { [key]: v });
  }
  const save = page.getByRole("button", { name: "Save", exact: true });
  await save.click();
  await expect(async () => {
    expect(await page.getByRole("alert").allTextContents()).toEqual([]);
    expect(await save.isDisabled()).toBe(true);
  }).toPass({ timeout: 60_000 });
  const root = schemaOf(of);
  note(root, { $ref: root.$ref }, example, "");
}

test("every key of a site's document is entered in the interface, and saved", async ({ page }) => {
  const found = documented.find((d) => "site" in d && "journeys" in d) as Record<string, Value>;
  const example: Record<string, Value> = { ...found, title: "Plots", certificate_authority: certificate, allowed: ["127.0.0.1:8080"] };
  const dsn = /Its database is (\S+)/.exec(demo.output)?.[1] ?? "";
  const [main] = example.databases as Members[];
  if (main) main.dsn = dsn;
  const [there] = example.environments as Members[];
  if (there) Object.assign(there, { address: "http://127.0.0.1:4651", certificate_authority: certificate, allowed: ["127.0.0.1:8081"] });
  for (const d of (there?.databases ?? []) as Members[]) d.dsn = dsn;
  await signIn(page, demo.address);
  await page.getByText("Add a site", { exact: true }).click();
  const begin = page.getByRole("form", { name: "Add a site" });
  await begin.getByLabel("Title").fill("Plots");
  await begin.getByLabel("Address").fill("http://127.0.0.1:4650");
  await begin.getByLabel("Address").press("Enter");
  await expect(page.getByRole("region", { name: "Plots" })).toBeVisible();
  await page.goto(`${demo.address}/sites/plots/document`);
  await writes(page, "site", example);
  // secrets are kept, and never come back
  const saved = await savedText(page, "/api/sites/plots/document");
  expect(inFull(asTexts(saved))).toEqual(inFull(asTexts(withoutSecrets({ ...example, site: "plots" }))));
});

/** A site's document as it comes out again: without data source names, passwords and the values of headers. */
function withoutSecrets(site: Record<string, Value>): Value {
  const without = (v: Value, key: string) => {
    if (isMembers(v)) delete v[key];
  };
  const out = structuredClone(site);
  for (const place of [out, ...((out.environments ?? []) as Members[])]) {
    for (const d of (place.databases ?? []) as Value[]) without(d, "dsn");
    for (const a of (place.accounts ?? []) as Value[]) for (const secret of ["password", "code_secret", "session"]) without(a, secret);
    without(place.authentication ?? null, "password");
    if (isMembers(place.headers)) for (const h of Object.keys(place.headers)) place.headers[h] = "";
  }
  return out;
}

const savedText = async (page: Page, address: string) =>
  parse((await page.evaluate(async (a) => (await (await fetch(a)).json()).text, address)) as string, { stringKeys: true }) as Value;

/** What the documents explain in their text only. */
const more: Record<string, Value> = {
  form: "more",
  page: "/more",
  before: { sign_in_with: "fern" },
  fields: [
    {
      name: "bed",
      normalize: [{ strip: " -" }, { number: "1.234,5" }, { phone: "+44" }],
      rules: [
        { required: { message: { text: "Enter a bed." } } },
        { length: { max: 3, message: { part: "at most 3" } } },
        { pattern: { is: "[a-z0-9]+", message: { pattern: "letters|digits" } } },
        { characters: { of: "a-z0-9", message: { texts: { en: "Use letters.", cy: "Llythrennau." } } } },
      ],
    },
  ],
};

for (const name of ["join", "shed", "plot", "rules", "outcome", "more"])
  test(`every key of the form ${name} is entered in the interface, and saved`, async ({ page }) => {
    const example = documented.find((d) => d.form === name && Array.isArray(d.fields)) ?? more;
    await signIn(page, demo.address);
    const site = page.getByRole("region", { name: "Ostlewick Allotments" });
    await site.getByText("Add a form").click();
    await site.getByLabel("Title").fill(`Document ${name}`);
    await site.getByLabel("Path of the page").fill(String(example.page));
    await site.getByLabel("Path of the page").press("Enter");
    await page.waitForURL(`**/forms/document_${name}/form`);
    await page.goto(`${demo.address}/sites/ostlewick/forms/document_${name}/document`);
    await writes(page, "form", example);
    const saved = await savedText(page, `/api/sites/ostlewick/forms/document_${name}/document`);
    expect(asTexts(saved)).toEqual(asTexts({ title: `Document ${name}`, ...example, form: `document_${name}` }));
  });

test("no key of the schemas is missing", () => {
  const missing: string[] = [];
  for (const of of ["form", "site"]) {
    const root = schemaOf(of);
    for (const [name, def] of Object.entries(root.$defs ?? {}))
      for (const key of Object.keys(def.properties ?? {})) {
        // what every kind of rule may say is entered by one control for all of them
        const ofAnyRule = def.properties?.layers && steps.has(`Required.${key}`);
        if (!steps.has(`${name}.${key}`) && !ofAnyRule) missing.push(`${name}.${key}`);
      }
  }
  console.log([...steps].map(([key, how]) => `${key}: ${how}`).join("\n"));
  expect(missing).toEqual([]);
});

test("what somebody else saves meanwhile is told, and both changes are there in the end", async ({ page, context }) => {
  await signIn(page, demo.address);
  const at = `${demo.address}/sites/ostlewick/forms/password/document`;
  await page.goto(at);
  const title = page.getByLabel("title", { exact: true });
  await title.fill("A new password");
  const other = await context.newPage();
  await other.goto(at);
  await other.getByLabel("page", { exact: true }).fill("/password?from=here");
  await other.getByRole("button", { name: "Save", exact: true }).click();
  await expect(other.getByText("revision 2").first()).toBeVisible();
  await other.close();
  await expect(title).toHaveValue("A new password");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText("Revision 2 was saved in the meantime by tester")).toBeVisible();
  await page.getByRole("button", { name: "Apply my change to it" }).click();
  await expect(page.getByText("revision 3").first()).toBeVisible();
  const saved = await savedText(page, "/api/sites/ostlewick/forms/password/document");
  expect(saved).toMatchObject({ title: "A new password", page: "/password?from=here" });
});

test("leaving with unsaved changes asks first", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address}/sites/ostlewick/document`);
  await page.locator(at("title")).fill("Not saved");
  await page.getByRole("link", { name: "Settings" }).click();
  await expect(page.getByText("Your changes are not saved.")).toBeVisible();
  await page.getByRole("button", { name: "Stay here" }).click();
  await expect(page.locator(at("title"))).toHaveValue("Not saved");
  await page.getByRole("link", { name: "Settings" }).click();
  await page.getByRole("button", { name: "Leave without saving" }).click();
  await expect(page.getByRole("heading", { name: /settings$/ })).toBeVisible();
});

test("problems of a text stand at their lines, and keys are completed with what they mean", async ({ page }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address}/sites/ostlewick/forms/wishes/document?as=text`);
  const text = page.getByRole("textbox", { name: "Text of the document (YAML)" });
  await text.click();
  await page.keyboard.press("Control+Home");
  await page.keyboard.press("Enter");
  await page.keyboard.press("ArrowUp");
  await page.keyboard.type("pha");
  await expect(page.getByRole("option", { name: "phases" })).toBeVisible();
  await page.keyboard.press("Escape");
  for (const _ of "pha") await page.keyboard.press("Backspace");
  await page.keyboard.type("colour: green");
  await expect(page.getByRole("alert").getByText(/^Line 1: .*colour/)).toBeVisible();
  await expect(page.getByRole("button", { name: "Discard changes" })).toBeEnabled();
});
