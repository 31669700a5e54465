import { readFileSync } from "node:fs";
import {
  axe,
  candidatesFound,
  choose,
  expect,
  importStudy,
  readsWell,
  saved,
  stored,
  test,
  visit,
  WORKED_OUT,
} from "./help";

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
  // Heat does not stand clear of what set-ups vary by, and is not offered: a press takes it in.
  await page.getByRole("button", { name: "Mains only" }).click();
  const said = page.locator('[data-reading="setups"]');
  await expect(said).toContainText("4 set-ups: they vary by s 1.4 mm");
  await expect(said).toContainText("with 2 degrees of freedom");
  await expect(said).toContainText(
    /Taken as 8 trials on their own, Heat would have read p 0\.0\d+ where p 0\.29 is right/,
  );
  await page.getByRole("tab", { name: "Table" }).click();
  const heat = page.getByRole("row", { name: /^Heat 1 between/ });
  await expect(heat).toHaveText(/between\s*2(\.0+)?\s*2\.00\s*0\.29$/);
  // Pointed at it says all its digits.
  await expect(heat.locator("td").last()).toHaveAttribute("title", /^0\.29289321881/);
  await expect(page.getByRole("row", { name: /^Time 1 within/ })).toBeVisible();
  await expect(page.getByTestId("summary")).toContainText("between");
  expect(await axe(page)).toEqual([]);
  await readsWell(page);
});

test("too few set-ups to tell: a ratio is asked on Model, and what rests on it is marked to the report", async ({
  page,
}) => {
  // Two firings of four trials: nothing is left between them beside heat.
  const made = oven({ setups: [1, 1, 2, 2, 3, 3, 4, 4] });
  const id = await importStudy(page, {
    ...made,
    title: "Two firings",
    responses: [{ id: "crust", name: "Crust", unit: "mm", goal: { aim: "within", low: 17, high: 24 } }],
    trials: [
      ...made.trials.filter((t) => t.settings.heat === 150),
      ...made.trials.filter((t) => t.settings.heat === 170),
    ].map((t, i) => ({ ...t, order: i + 1, setup: i < 4 ? 1 : 2 })),
    models: [{ response: "crust", terms: [["heat"], ["time"]] }],
    setpoint: { settings: { heat: 160, time: 6 } },
  });
  await visit(page, id, "model");
  await expect(page.locator('[data-reading="setups"]')).toContainText("to be as large as that of trials: a guess");
  const asked = page.getByLabel("Assumed variance between set-ups over that within");
  await expect(asked).toHaveValue("1");
  await asked.fill("twice");
  await asked.press("Enter");
  await expect(page.getByTestId("summary").getByRole("alert")).toHaveText(
    "“twice” is no ratio of variances; type a number from 0 to 1000, or nothing for the one planned with.",
  );
  await expect(asked).toHaveValue("twice");
  await asked.fill("4");
  await asked.press("Enter");
  await saved(page);
  await expect(page.locator('[data-reading="setups"]')).toContainText("to be 4 times that of trials: a guess");
  const probe = page.getByRole("complementary", { name: "Probe" });
  await expect(probe).toContainText("† Assumed, set-ups being too few to tell: their variance is 4 × that of trials.");
  await page.getByRole("tab", { name: "Table" }).click();
  await expect(page.getByRole("table", { name: "Intervals at assumed ratios" }).locator("th")).toHaveText([
    "Term",
    "1 ×",
    "4 ×",
    "16 ×",
  ]);
  expect((await stored(page, id)).study.models).toMatchObject([{ response: "crust", eta: 4 }]);
  expect(await axe(page)).toEqual([]);

  await visit(page, id, "setpoint");
  await expect(page.getByTestId("candidates")).toContainText("†", { timeout: WORKED_OUT });
  await expect(page.locator('[data-reading="assumed"]')).toContainText("taken to be 4 times that of trials for Crust");
  await expect(page.getByTestId("confirmation")).toContainText("†");
  await readsWell(page);
  await visit(page, id, "report");
  await expect(page.getByRole("row", { name: /^Crust, mm 20\.0\d* .*†.*†/ })).toBeVisible();
  // Given back to what was planned with.
  await visit(page, id, "model");
  await asked.fill("");
  await asked.press("Enter");
  await expect(page.locator('[data-reading="setups"]')).toContainText("to be as large as");
  await saved(page);
  expect((await stored(page, id)).study.models).not.toMatchObject([{ eta: 4 }]);
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

test("the smokehouse: planned in eight set-ups, run from the bench on, judged in two strata, confirmed over set-ups", async ({
  page,
}) => {
  const shipped = JSON.parse(readFileSync("examples/fish-smokehouse.trialmoor.json", "utf8"));
  const {
    format: _f,
    version: _v,
    waves: _w,
    trials: _t,
    models: _m,
    setpoint: _s,
    setupCost: _c,
    ...question
  } = shipped;
  const id = await importStudy(page, { ...question, title: "Smoke, to be planned" });

  // Question: what a set-up costs.
  await visit(page, id, "question");
  const cost = page.getByLabel("Cost of a set-up, in trials");
  await cost.fill("-2");
  await cost.press("Enter");
  await expect(page.getByRole("alert").first()).toContainText("must be a number of trials from 0 to 10,000");
  await expect(cost).toHaveValue("-2");
  await cost.fill("3");
  await cost.press("Enter");
  await saved(page);

  // Plan: eight set-ups; what resetting for every trial would buy stands beside it.
  await page.getByRole("button", { name: "Weigh plans" }).click();
  await page.waitForURL(/plan$/);
  await page.getByLabel("centre points").fill("0");
  await page.getByLabel("set-ups, up to").fill("8");
  const kept = page.locator('[data-plan="fraction-16-1-0-setups:8"]');
  await expect(kept).toHaveAttribute("aria-label", /^Fraction 16 in 8 set-ups: 16 trials in 8 set-ups, cost 40/);
  await expect(page.locator('[data-plan="fraction-16-1-0-setups:16"]')).toHaveAttribute(
    "aria-label",
    /^Fraction 16, reset every trial: 16 trials in 16 set-ups, cost 64/,
  );
  await expect(page.locator("[data-searching]")).toHaveAttribute("data-searching", "no", { timeout: WORKED_OUT });
  if ((await page.locator('[data-adopt="fraction-16-1-0-setups:8"]').count()) === 0) {
    await kept.focus();
    await page.keyboard.press("Enter");
  }
  await expect(page.getByText("8 set-ups of up to 2 trials").first()).toBeVisible();
  await expect(page.locator('[data-reading="reset-anyway"]')).toContainText("set anew for every one of 16 trials");
  expect(await axe(page)).toEqual([]);
  await page.locator('[data-adopt="fraction-16-1-0-setups:8"]').click();
  await page.waitForURL(/trials$/);
  await saved(page);
  await expect(page.locator("[data-setup]").first()).toHaveAttribute("data-setup", "1");
  const planned = (await stored(page, id)).study.trials as unknown as {
    setup: number;
    settings: { smoke: number; damp: number };
  }[];
  expect(new Set(planned.map((t) => t.setup)).size).toBe(8);

  // Bench: the first trial by hand, the rest on the rig.
  await page.goto(`/studies/${id}/bench`);
  const settings = page.getByRole("region", { name: "Settings" });
  await expect(settings).toContainText("Set all of these");
  await page.getByLabel("Weight loss", { exact: true }).fill("17.2");
  await page.getByLabel("Weight loss", { exact: true }).press("Enter");
  await page.getByLabel("Smoke taste", { exact: true }).fill("5.1");
  await page.getByLabel("Smoke taste", { exact: true }).press("Enter");
  await expect(page.getByText("All entries are sent.")).toBeVisible();
  await page.goto(`/studies/${id}/bench#trial-3`);
  await expect(settings).toContainText("New set-up, number 2");
  await visit(page, id, "trials");
  await page.getByRole("button", { name: "Run the rest on the rig" }).click();
  await expect(page.getByRole("link", { name: /Trials/ })).toContainText("16 of 16 run", { timeout: WORKED_OUT });
  await saved(page);

  // Model: main effects of both, smoke judged between set-ups, drying within them.
  await visit(page, id, "model");
  for (const name of ["Weight loss", "Smoke taste"]) {
    await page.getByRole("main").getByRole("button", { name, exact: true }).click();
    await page.getByRole("button", { name: "Reduce" }).click();
    await choose(page, "reduce by", "aicc");
    await page.getByRole("tooltip").getByRole("button", { name: "Reduce", exact: true }).click();
    await expect(page.getByLabel("Steps to this model")).toBeVisible();
  }
  await saved(page);
  await page.getByRole("main").getByRole("button", { name: "Weight loss", exact: true }).click();
  await expect(page.locator('[data-reading="setups"]')).toContainText("8 set-ups");
  await expect(page.getByTestId("summary").getByRole("img", { name: /between set-ups, .* within/ })).toBeVisible();
  await page.getByRole("tab", { name: "Table" }).click();
  await expect(page.getByRole("row", { name: /^Smoke temperature 1 between/ })).toBeVisible();
  await expect(page.getByRole("row", { name: /^Drying time 1 within/ })).toBeVisible();
  await readsWell(page);

  // What may follow takes the set-ups that are asked for.
  await visit(page, id, "plan");
  const axial = page.locator('[data-follow="axial"]').first();
  const more = page.getByRole("button", { name: /more kinds/ });
  await expect(page.getByTestId("next-wave")).toBeVisible();
  if ((await axial.count()) === 0) await more.click();
  await page.getByLabel("set-ups, up to").fill("7");
  await expect(axial).toContainText("in 7 set-ups", { timeout: WORKED_OUT });

  // Setpoint, and four confirmations in two set-ups.
  await visit(page, id, "setpoint");
  await candidatesFound(page);
  await page.getByRole("button", { name: "Choose" }).first().click();
  await saved(page);
  await page.getByLabel("Confirmation trials").fill("4");
  const over = page.getByLabel("Set-ups of the confirmation");
  await over.fill("two");
  await over.press("Tab");
  await expect(page.getByText("Give a whole number from 1 to 50, or none to set up every trial anew.")).toBeVisible();
  await over.fill("2");
  await expect(page.getByText("the mean of 4 in 2 set-ups should lie")).toBeVisible();
  expect(await axe(page)).toEqual([]);
  await page.getByRole("button", { name: "Plan the confirmation" }).click();
  await page.waitForURL(/trials$/);
  await saved(page);
  const confirming = ((await stored(page, id)).study.trials as unknown as { kind: string; setup: number }[]).filter(
    (t) => t.kind === "confirm",
  );
  expect(confirming.map((t) => t.setup)).toEqual([1, 1, 2, 2]);
  await page.getByRole("button", { name: "Run the rest on the rig" }).click();
  await expect(page.getByRole("link", { name: /Trials/ })).toContainText("20 of 20 run", { timeout: WORKED_OUT });
  await saved(page);
  await visit(page, id, "setpoint");
  await expect(page.getByRole("link", { name: /Setpoint/ })).toContainText(/confirmed|off/);
  await readsWell(page);
});
