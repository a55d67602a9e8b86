import { expect, signIn, takeIn, test, whileItRuns } from "./demo";
import { keepCases, many, shed, states, wide } from "./fixtures";

const at = "/sites/yard/forms";

test.beforeEach(async ({ page, demo }) => {
  await signIn(page, demo.address);
  await takeIn(page, `site: yard\ntitle: Ostlewick Yard\naddress: ${demo.practice}\n${states}---\n${shed}---\n${many}---\n${wide(25)}`);
});

test("the list of 20,000 cases scrolls end to end without a blank stripe", async ({ page, demo }) => {
  await keepCases(page, 19_950);
  await page.goto(`${demo.address}${at}/many/cases?view=list`);
  const list = page.getByRole("listbox", { name: "Cases" });
  await expect(list.getByRole("option").first()).toBeVisible(whileItRuns);
  await expect(page.getByText(/^20,?0\d\d cases|^200\d\d cases/).first()).toBeVisible();
  const seen = await list.evaluate(async (box) => {
    const blank: string[] = [];
    let most = 0;
    let last = -1;
    const painted = () => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
    const look = () => {
      most = Math.max(most, box.querySelectorAll("[role=option]").length);
      const r = box.getBoundingClientRect();
      for (let y = r.top + 8; y < r.bottom - 8; y += 24) {
        const line = document.elementFromPoint(r.left + 300, y)?.closest("[data-line]");
        if (!line) blank.push(`${Math.round(box.scrollTop)} at ${Math.round(y)}`);
        else last = Math.max(last, Number(line.getAttribute("data-line")));
      }
    };
    // closely at first and at the end, in leaps between
    for (let top = 0; top < box.scrollHeight; ) {
      box.scrollTop = top;
      await painted();
      look();
      top += top < 9000 || top > box.scrollHeight - 12000 ? Math.floor(box.clientHeight / 3) : box.clientHeight * 11;
    }
    box.scrollTop = box.scrollHeight;
    await painted();
    look();
    return { blank: blank.slice(0, 5), most, last };
  });
  expect(seen.blank).toEqual([]);
  expect(seen.most).toBeLessThan(300);
  expect(seen.last).toBeGreaterThan(20_000);

  // filters and sorting over all of them
  await page.getByRole("searchbox", { name: "Filter by text" }).fill("visit 19950 ");
  await expect(page.getByRole("status").filter({ hasText: /^1 of 20/ })).toBeVisible();
  await expect(list.getByRole("option")).toHaveCount(1);
  await expect(page).toHaveURL(/text=visit\+19950/);
  await page.reload();
  await expect(list.getByRole("option")).toHaveCount(1, whileItRuns);
  await page.getByRole("searchbox", { name: "Filter by text" }).fill("");
  await page.getByRole("button", { name: "Sort by expected" }).click();
  await page.getByRole("button", { name: "Sort by expected" }).click();
  await expect(list.getByRole("option").first()).toContainText("rejected");
});

test("cases are chosen, switched off, tagged and switched on by keyboard", async ({ page, demo }) => {
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/cases?view=list&depth=quick`);
  const list = page.getByRole("listbox", { name: "Cases" });
  await expect(list.getByRole("option").first()).toBeVisible();
  await list.focus();
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Space");
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Shift+ArrowDown");
  const chosen = page.getByRole("group", { name: "Chosen cases" });
  await expect(chosen).toContainText("3 chosen");
  // what is asked next stays, however long the answer before takes
  const slowly = "**/case-edits";
  await page.route(slowly, async (route) => {
    if (route.request().method() === "POST") await new Promise((done) => setTimeout(done, 700));
    await route.continue();
  });
  await chosen.getByRole("button", { name: "Skip …" }).click();
  await page.getByLabel("Why they are skipped").fill("the page is being rewritten");
  await page.keyboard.press("Enter");
  await chosen.getByRole("button", { name: "Tag …" }).click();
  await expect(page.getByText(/3 skipped/)).toBeVisible();
  await page.unroute(slowly);
  await page.getByLabel("Tag", { exact: true }).fill("later");
  await page.keyboard.press("Enter");
  await page.getByLabel("Filter by tag").selectOption("later");
  await expect(list.getByRole("option")).toHaveCount(3);
  await page.getByLabel("Filter by verdict").selectOption("skipped");
  await expect(list.getByRole("option")).toHaveCount(3);
  await page.reload();
  await expect(list.getByRole("option")).toHaveCount(3);
  await list.focus();
  await page.keyboard.press("Control+a");
  await chosen.getByRole("button", { name: "Include again" }).click();
  await expect(page.getByText(/\d+ skipped/).first()).toBeHidden();
  await page.getByLabel("Filter by verdict").selectOption("");
  await expect(list.getByRole("option")).toHaveCount(3);
});

test("a case is written by hand, its expectation following as one types", async ({ page, demo }) => {
  await page.goto(`${demo.address}${at}/shed/cases`);
  await page.getByRole("button", { name: "Add a case" }).click();
  const editor = page.getByRole("form", { name: "Add a case" });
  await editor.getByLabel("Title").fill("Market stall");
  await editor.getByLabel("Width in metres", { exact: true }).fill("4");
  const expected = editor.getByRole("status", { name: "Expected" });
  await expect(expected).toContainText("Expected: accepted");
  await editor.getByLabel("Width in metres", { exact: true }).fill("4.2");
  await expect(expected).toContainText("rejected by the server");
  await expect(expected).toContainText("Width in metres");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("button", { name: "Delete" })).toBeVisible();
  await expect(page.getByRole("row", { name: "Added cases" })).toBeVisible();
  await page.getByRole("button", { name: "Edit", exact: true }).click();
  await page.getByRole("form", { name: "Edit the case" }).getByLabel("Width in metres", { exact: true }).fill("3");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText("Expected: accepted.")).toBeVisible();
  await page.getByRole("button", { name: "Delete" }).click();
  await expect(page.getByRole("row", { name: "Added cases" })).toBeHidden();
});

test("a decision table is edited in place, and says what no input can do", async ({ page, demo }) => {
  await page.goto(`${demo.address}${at}/shed/cases?view=decisions`);
  const edge = page.getByRole("region", { name: /kind == "box" \|\| width/ });
  await expect(edge.getByRole("cell", { name: "–" })).toHaveCount(3);
  await edge.getByRole("button", { name: "fails", exact: true }).click();
  await expect(edge.getByLabel("Expression of across.edge")).toHaveValue("true");
  await edge.getByRole("button", { name: "Cancel" }).click();
  await edge.getByRole("button", { name: "holds", exact: true }).last().click();
  await expect(edge.getByLabel("Expression of across.edge")).toHaveValue('kind == "box" || width <= 2.5');
  await expect(edge.getByRole("status")).toContainText(/\d+ cases added/);
  await edge.getByRole("button", { name: "Save" }).click();
  const after = page.getByRole("region", { name: 'kind == "box" || width <= 2.5', exact: true });
  await expect(after).toBeVisible();
  await after.getByLabel("Expression of across.edge").fill('kind == "box" ? kind != "glass" : width <= 2.5');
  await page.keyboard.press("Enter");
  await expect(page.getByText(/Infeasible:/)).toBeVisible();
  await expect(page.getByText(/kind == "box" and kind == "glass" never hold together/)).toBeVisible();
  await after
    .or(page.getByRole("region", { name: /kind != "glass"/ }))
    .first()
    .getByLabel("Expression of across.edge")
    .fill("kind ==");
  await expect(page.getByText(/the expression cannot be read/)).toBeVisible();
});

test("combinations grow with their strength, and show what each row adds", async ({ page, demo }) => {
  await page.goto(`${demo.address}${at}/shed/cases?view=combinations`);
  const rows = page.getByRole("table", { name: "Rows of combined values" });
  await expect(rows).toBeVisible();
  const pairs = await rows.getByRole("row").count();
  await rows.getByRole("row").nth(3).getByRole("button").click();
  await expect(page.getByRole("region", { name: "Pairs of the row" })).toBeVisible();
  await page.getByRole("button", { name: /any three fields/ }).click();
  await expect(page).toHaveURL(/strength=3/);
  await expect.poll(() => rows.getByRole("row").count()).toBeGreaterThan(pairs);
});

test("what is not covered is added with one key, and survives a reload", async ({ page, demo }) => {
  await page.goto(`${demo.address}${at}/wide/cases?view=coverage&depth=quick`);
  const boundaries = page.getByRole("listitem").filter({ has: page.getByRole("heading", { name: "boundary values" }) });
  const share = async () => Number(/(\d+) of \d+/.exec(await boundaries.innerText())?.[1]);
  await expect(boundaries).toBeVisible();
  const before = await share();
  await boundaries
    .getByRole("button", { name: /^Add .*: / })
    .first()
    .focus();
  await page.keyboard.press("Enter");
  await expect.poll(share).toBe(before + 1);
  await page.reload();
  await expect.poll(share).toBe(before + 1);
});

test("cases come from a sheet, and what it says otherwise than the rules is told", async ({ page, demo }) => {
  await page.goto(`${demo.address}${at}/shed/cases?view=sheet`);
  await page.getByLabel("Text of the sheet").fill("What;Metres;Result\nusual;2;ok\ntoo wide;7;ok\n");
  await expect(page.getByLabel("Column Metres")).toHaveValue("");
  await page.getByLabel("Column Metres").selectOption("width");
  await expect(page.getByText("1 expect another outcome than the rules")).toBeVisible();
  await page.getByRole("button", { name: "Import 2 cases" }).click();
  await expect(page.getByText("the sheet expects accepted")).toBeVisible();
  await page.goto(`${demo.address}${at}/shed/cases?view=sheet`);
  await page.getByLabel("Text of the sheet").fill('title,width\n"open');
  await expect(page.getByRole("alert")).toContainText("line 2");
});

test("a form of 25 fields has a line a field, and a line a rule when opened", async ({ page, demo }) => {
  await page.goto(`${demo.address}${at}/wide/cases`);
  const row = page.getByRole("row", { name: "Name of the plant 1", exact: true });
  await expect(row).toBeVisible();
  const thin = (await row.boundingBox())?.height ?? 0;
  expect(thin).toBeLessThan(45);
  await row.getByRole("button", { name: "Name of the plant 1", exact: true }).click();
  await expect(page).toHaveURL(/open=f1/);
  expect((await row.boundingBox())?.height ?? 0).toBeGreaterThan(thin * 3);
  await expect(row.getByText("length, characters")).toBeVisible();
});

test("when Cases is opened with its link, the arrow keys move in the scales", async ({ page, demo }) => {
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/form`);
  await page.getByRole("link", { name: /^Cases/ }).click();
  await expect(page.getByRole("grid")).toBeVisible();
  await page.keyboard.press("ArrowRight");
  await expect(page.locator("[data-tick]:focus")).toHaveAttribute("aria-label", /^Username/);
  await page.keyboard.press("Shift+Tab");
  await expect(page.locator("[data-tick]:focus")).toHaveCount(0);
});
