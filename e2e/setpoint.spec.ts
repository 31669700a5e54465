import { axe, expect, openExample, readsWell, saved, stored, test, visit } from "./help";

test("search, hold a factor, search again, choose: the setpoint is on settable steps", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "setpoint");
  await expect(page.getByTestId("candidates")).toBeVisible({ timeout: 30_000 });
  expect(await axe(page)).toEqual([]);
  await page.getByLabel("Wool lot at the probe").getByRole("button", { name: "lowland" }).click();
  await page.getByLabel("Hold a factor at the probe").selectOption("lot");
  await page.getByRole("button", { name: /Search/ }).click();
  await expect(page.getByTestId("candidates").locator("tbody tr").first()).toContainText("lowland", { timeout: 30_000 });
  await page.getByRole("button", { name: "Choose" }).first().click();
  await saved(page);
  const { study } = await stored(page, id);
  const { temp, dose, feed, lot } = (study.setpoint ?? { settings: {} }).settings as { temp: number; dose: number; feed: number; lot: string };
  expect([temp % 1, (dose * 2) % 1, feed % 10, lot]).toEqual([0, 0, 0, "lowland"]);
  await readsWell(page);
});

test("a changed goal makes candidates stale and says so", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "setpoint");
  await expect(page.getByTestId("candidates")).toBeVisible({ timeout: 30_000 });
  await page.getByLabel("Whiteness: importance 5").click();
  await expect(page.getByRole("button", { name: "Search again" })).toBeVisible();
  await expect(page.locator("aside").last()).toContainText("Something changed since the last search");
  await saved(page);
});

test("page, server and headless figures are the same for the same seed", async ({ page }) => {
  const id = await openExample(page);
  const answer = await page.request.post(`/api/studies/${id}/setpoint`, { data: { seed: 1 } });
  const { settable } = (await answer.json()) as { settable: { overall: number; settings: Record<string, unknown> } };
  await visit(page, id, "setpoint");
  await expect(page.getByTestId("candidates").locator("tbody tr").first()).toContainText(settable.overall.toFixed(3), { timeout: 30_000 });
});

test("a knee dragged is one change, undone in one step", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "setpoint");
  const lowOf = async (): Promise<number | undefined> =>
    ((await stored(page, id)).study.responses as { id: string; goal?: { low?: number } }[]).find((r) => r.id === "white")?.goal?.low;
  const before = await lowOf();
  const knee = page
    .getByRole("slider", { name: "Whiteness index: low" })
    .or(page.getByRole("slider", { name: "Whiteness: low" }))
    .first();
  const box = await knee.boundingBox();
  if (!box) throw new Error("The knee is not on the screen.");
  await page.mouse.move(box.x + 5, box.y + 5);
  await page.mouse.down();
  for (let i = 1; i <= 6; i++) await page.mouse.move(box.x + 5 + 6 * i, box.y + 5);
  await page.mouse.up();
  await saved(page);
  const moved = await lowOf();
  expect(moved).toBeGreaterThan(before ?? 0);
  await page.getByRole("button", { name: /^Undo/ }).click();
  await saved(page);
  expect(await lowOf()).toBe(before);
});
