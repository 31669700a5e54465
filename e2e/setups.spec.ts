import { axe, expect, importStudy, readsWell, saved, stored, test, visit } from "./help";

const factors = [
  { id: "heat", name: "Heat", unit: "°C", kind: "continuous", low: 150, high: 170, change: "hard" },
  { id: "time", name: "Time", unit: "min", kind: "continuous", low: 4, high: 8 },
];
/**
 * Four set-ups of two trials: heat does ±1, set-ups are off by ±1, time does ±0.5, trials are off by ±0.1. Between
 * set-ups the mean square is 2 · 4 · 1²/2 = 4 on 2 degrees of freedom, that of heat 8: F = 2, p = 1 − √½ = 0.2929.
 */
const oven = (from: { setups?: readonly number[]; waits?: number } = {}) => ({
  title: "Old oven",
  factors,
  responses: [{ id: "crust", name: "Crust", unit: "mm" }],
  waves: [{ id: "w1", name: "Winter" }],
  trials: [
    [150, -1, 0.1],
    [170, -1, 0.1],
    [150, 1, -0.1],
    [170, 1, -0.1],
  ].flatMap(([heat, off, e], g) =>
    [4, 8].map((time, i) => {
      const at = time === 4 ? -1 : 1;
      const order = 2 * g + i + 1;
      const waits = order > 8 - (from.waits ?? 0);
      return {
        id: `t${order}`,
        wave: "w1",
        order,
        ...(from.setups ? { setup: from.setups[order - 1] } : {}),
        state: waits ? "planned" : "done",
        settings: { heat, time },
        results: waits ? {} : { crust: 20 + (heat === 150 ? -1 : 1) + off + 0.5 * at + e * at },
      };
    }),
  ),
});
const numbers = async (page: import("@playwright/test").Page, id: string) =>
  ((await stored(page, id)).study.trials as { setup?: number }[]).map((t) => t.setup);

test("an old ledger is asked about its set-ups, one is broken off, and models judge between them and within", async ({
  page,
}) => {
  const id = await importStudy(page, oven());
  await visit(page, id, "trials");
  const asked = page.locator('[data-reading="mark-setups"]');
  await expect(asked).toContainText("Heat stayed as set for up to 2 trials in a row: 8 trials in 4 set-ups");
  await expect(page.locator("[data-setup]")).toHaveCount(0);
  await asked.getByRole("button", { name: "Mark these set-ups" }).click();
  await expect(page.locator("[data-setup]")).toHaveCount(4);
  await expect(page.locator('[data-setup="2"]')).toHaveText("Set-up 2 · Heat 170 °C");
  await expect(asked).toHaveCount(0);
  await saved(page);
  expect(await numbers(page, id)).toEqual([1, 1, 2, 2, 3, 3, 4, 4]);
  // By keyboard: the oven was reset between the two trials of the second set-up.
  await page.getByTestId("ledger").focus();
  await page.keyboard.press("Control+Home");
  for (let i = 0; i < 3; i++) await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Shift+F10");
  const opens = page.getByRole("menuitem", { name: "A new set-up starts here" });
  await expect(opens).toBeVisible();
  for (let i = 0; i < 9 && !(await opens.evaluate((e) => e === document.activeElement)); i++)
    await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Enter");
  await expect(page.locator("[data-setup]")).toHaveCount(5);
  await saved(page);
  expect(await numbers(page, id)).toEqual([1, 1, 2, 3, 4, 4, 5, 5]);
  await page.getByLabel("Menu of trial 4").click();
  await page.getByRole("menuitem", { name: "Same set-up as before" }).click();
  await expect(page.locator("[data-setup]")).toHaveCount(4);
  await saved(page);
  expect(await numbers(page, id)).toEqual([1, 1, 2, 2, 3, 3, 4, 4]);
  // Another setting cannot be the same set-up.
  await page.getByLabel("Menu of trial 3").click();
  await expect(page.getByRole("menuitem", { name: "Same set-up as before" })).toHaveAttribute("aria-disabled", "true");
  await page.keyboard.press("Escape");
  expect(await axe(page)).toEqual([]);

  await visit(page, id, "model");
  const said = page.locator('[data-reading="setups"]');
  await expect(said).toContainText("4 set-ups: they vary by s 1.4 mm");
  await expect(said).toContainText("with 2 degrees of freedom");
  await expect(said).toContainText(
    /Taken as 8 trials on their own, Heat would have read p 0\.0\d+ where p 0\.29 is right/,
  );
  await page.getByRole("tab", { name: "Table" }).click();
  const heat = page.getByRole("row", { name: /^Heat 1 between/ });
  await expect(heat).toHaveText(/between\s*2(\.0+)?\s*2\.00\s*0?\.2929/);
  await expect(page.getByRole("row", { name: /^Time 1 within/ })).toBeVisible();
  await expect(page.getByTestId("summary")).toContainText("between");
  expect(await axe(page)).toEqual([]);
  await readsWell(page);
});

test("a set-up that begins is said beside the machine and on paper, even where it shows the same", async ({ page }) => {
  // The second and third set-up are both at 170 °C.
  const study = oven({ setups: [1, 1, 2, 2, 3, 3, 4, 4], waits: 4 });
  for (const t of study.trials.slice(4, 6)) t.settings.heat = 170;
  const id = await importStudy(page, study);
  await visit(page, id, "trials");
  await expect(page.locator('[data-reading="next-trial"]')).toContainText(
    "Trial 5 begins set-up 3: change Time from 8 to 4 min, and reset Heat even if it shows the same.",
  );
  await expect(page.locator('[data-setup="3"]')).toContainText("reset, even if it shows the same");
  await page.goto(`/studies/${id}/bench`);
  const settings = page.getByRole("region", { name: "Settings" });
  await expect(settings).toContainText("New set-up, number 3.");
  await expect(settings).toContainText("reset, even if it shows the same");
  await page.goto(`/studies/${id}/paper`);
  await expect(page.getByText("Set-up 3: reset Heat, even where the dial shows the same")).toBeVisible();
});

test("set-ups that contradict their trials are refused in one sentence, with the way out", async ({
  page,
  allowed,
}) => {
  allowed.statuses.push(422);
  const refused = async (study: object): Promise<string> => {
    const answer = await page.request.post("/api/studies/import", {
      data: { format: "trialmoor-study", version: 1, ...study },
    });
    expect(answer.status()).toBe(422);
    return (await answer.json()).detail;
  };
  expect(await refused(oven({ setups: [1, 1, 1, 2, 3, 3, 4, 4] }))).toBe(
    "Heat is hard to change, yet trial 3 sets it otherwise within set-up 1 of Winter; begin another set-up there, or call the factor easy to change.",
  );
  const part = oven({ setups: [1, 1, 2, 2, 3, 3, 4, 4] });
  expect(
    await refused({ ...part, trials: part.trials.map(({ setup, ...t }, i) => (i === 6 ? t : { setup, ...t })) }),
  ).toBe("Trial 7 has no set-up, though others of Winter have one; number all trials of a wave or none.");
});
