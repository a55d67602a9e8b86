import { expect, signIn, takeIn, test, whileItRuns } from "./demo";

const attack = (where: string) => `<img src=x onerror="window.hit='${where}'"><script>window.hit='${where}'</script><b class=injected>${where}</b>"'javascript:hit`;

test("what a document says is shown as text in every view, and nothing in it runs", async ({ page, demo }) => {
  await signIn(page, demo.address);
  const quoted = (where: string) => JSON.stringify(attack(where));
  await takeIn(
    page,
    `site: moor\ntitle: ${quoted("site")}\naddress: ${demo.practice}
---
form: join
title: ${quoted("form")}
page: /join
submit: {method: POST, to: /join}
token: _token
fields:
  - {id: username, name: username, label: ${quoted("label")}, rules: [{required: {message: ${quoted("message")}}}, {length: {max: 20, message: ${quoted("another message")}}}]}
  - {id: heard, name: heard, label: Heard, kind: single_choice, options: [{label: ${quoted("option")}, value: ${quoted("value")}}]}
rejected: {status: 422}
accepted: {status: 303, reply: ${quoted("reply")}}
`,
  );
  const dialogs: string[] = [];
  page.on("dialog", (dialog) => {
    dialogs.push(dialog.message());
    void dialog.dismiss();
  });
  const form = "/sites/moor/forms/join";
  const views = ["/sites", `${form}/form`, `${form}/rules`, `${form}/try`, `${form}/cases`, `${form}/run`, `${form}/findings`, "/sites/moor/settings"];
  const look = async (view: string) => {
    await page.goto(demo.address + view);
    await expect(page.locator("h1").first()).toBeVisible();
    await page.waitForLoadState("networkidle");
    const found = await page.evaluate(() => ({
      hit: (window as unknown as { hit?: string }).hit ?? "",
      injected: document.querySelectorAll(".injected, img[src=x], [onerror]").length,
      shown: document.body.innerText.includes("<b class=injected>"),
    }));
    expect(found, view).toMatchObject({ hit: "", injected: 0 });
    return found.shown;
  };
  let shown = 0;
  for (const view of views) shown += (await look(view)) ? 1 : 0;
  // and once it has run, in what was found
  await page.goto(`${demo.address}${form}/run`);
  await page.getByRole("button", { name: /^Run / }).first().click();
  await expect(page.getByText(/finished, \d+ of \d+ cases/)).toBeVisible(whileItRuns);
  for (const view of views) shown += (await look(view)) ? 1 : 0;
  expect(shown, "it is there to be read").toBeGreaterThan(8);
  expect(dialogs).toEqual([]);
});
