import { expect, signIn, test, whileItRuns } from "./demo";

test("who may open what: every page as every account, with the slip that explains what is odd", async ({ page, demo }) => {
  await signIn(page, demo.address);
  await page.getByRole("region", { name: "Ostlewick Allotments" }).getByRole("link", { name: "access" }).click();
  const sweep = page.getByRole("button", { name: "Open every page as every account" });
  await sweep.click();
  await expect(page.getByText("nothing odd")).toBeVisible(whileItRuns);
  await expect(page.getByRole("button", { name: "/members, maple: opens; as expected" })).toBeVisible();
  await expect(page.getByRole("region", { name: "Menus and sessions" }).getByRole("listitem")).toHaveCount(11);
  await demo.withFaults(page, ["members-either", "sign-out-keeps"], async () => {
    await page.goto(`${demo.address}/sites/ostlewick/access`);
    await sweep.click();
    await expect(page.getByText("3 odd")).toBeVisible(whileItRuns);
    const cell = page.getByRole("complementary", { name: "The chosen cell" });
    await expect(cell).toContainText("/members, for fern");
    await expect(cell).toContainText("as if member were (signed_in && confirmed_at != null) || wishes");
    await page.getByRole("button", { name: "/members, fern: redirects to /wishes; odd" }).focus();
    await page.keyboard.press("o");
    await expect(cell).toContainText("/members, for briar");
    await page.keyboard.press("ArrowLeft");
    await expect(cell).toContainText("/members, for dew");
    await page.reload();
    await expect(page.getByText("3 odd"), "what was seen is kept").toBeVisible();
  });
});

test("a journey is walked as it is meant, with a step left out, and with a link that is used up", async ({ page, demo }) => {
  await signIn(page, demo.address);
  await page.goto(`${demo.address}/sites/ostlewick/journeys`);
  const walk = page.getByRole("button", { name: "Run all paths" });
  await demo.withFaults(page, [], async () => {
    await page.goto(`${demo.address}/sites/ostlewick/journeys`);
    await walk.click();
    await expect(page.getByText("run just now")).toBeVisible(whileItRuns);
    await expect(page.getByText("skipping: follow the link")).toBeVisible();
    await expect(page.getByRole("img", { name: "odd", exact: true }), "none but the legend's").toHaveCount(1);
  });
  await demo.withFaults(page, ["confirm-twice"], async () => {
    await page.goto(`${demo.address}/sites/ostlewick/journeys`);
    await walk.click();
    await expect(page.getByRole("button", { name: /follow the link again/ })).toHaveAttribute("aria-pressed", "true", whileItRuns);
    await expect(page.getByRole("complementary", { name: "Selected step" })).toContainText("should have been rejected by the server");
  });
});

test("submissions released at the same moment are drawn on a time line", async ({ page, demo }) => {
  await signIn(page, demo.address);
  await demo.hasRun(page);
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/case?id=${encodeURIComponent("join/email.unique.together/http")}`);
  const line = page.getByRole("region", { name: "Released together" });
  await expect(line).toContainText("6 submissions released at the same moment, 1 row written");
  await expect(line).toContainText("would have been missed once in a hundred");
  await expect(line.getByText("rejected, 422")).toHaveCount(5);
});

test("the site's real limit is found from a case on a boundary", async ({ page, demo }) => {
  await signIn(page, demo.address);
  await demo.hasRun(page);
  await page.goto(`${demo.address}/sites/ostlewick/forms/join/case?id=${encodeURIComponent("join/username.length.max+1/http")}`);
  await page.getByRole("button", { name: "Find the real limit" }).click();
  const limit = page.getByRole("region", { name: "Limit" });
  await expect(limit).toContainText("promised 20 characters; accepted up to 190 characters, stored whole only up to 20 characters", whileItRuns);
  await limit.getByText(/^\d+ values tried$/).click();
  await expect(limit.getByRole("listitem").filter({ hasText: "191 characters" })).toContainText("rejected");
});
