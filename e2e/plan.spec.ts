import { spawnSync } from "node:child_process";
import { readFileSync } from "node:fs";
import type { Page } from "@playwright/test";
import { axe, choose, expect, importStudy, press, readsWell, saved, stored, test, visit, WORKED_OUT } from "./help";

const factors = (k: number, more: object = {}) =>
  Array.from({ length: k }, (_, i) => ({
    id: `f${i + 1}`,
    name: `Setting ${i + 1}`,
    kind: "continuous",
    low: 10,
    high: 20,
    ...more,
  }));
const responses = [{ id: "y", name: "Yield", unit: "kg", noise: 0.5, smallest: 1.5 }];

const points = (page: Page) => page.locator("[data-plan]");
const heads = (page: Page) => page.locator("[data-adopt]");
const searched = (page: Page) =>
  expect(page.locator("[data-searching]")).toHaveAttribute("data-searching", "no", { timeout: WORKED_OUT });

for (const k of [4, 8, 12])
  test(`${k} factors: plans of many kinds, three side by side, one adopted`, async ({ page }) => {
    const id = await importStudy(page, { factors: factors(k), responses });
    await visit(page, id, "plan");
    await press(page, "What a plan must tell", "main effects");
    await expect(points(page).first()).toBeVisible();
    await searched(page);
    const kinds = await points(page).evaluateAll(
      (all) => new Set(all.map((p) => p.getAttribute("data-plan")?.split("-")[0])).size,
    );
    expect(kinds).toBeGreaterThanOrEqual(4);
    while ((await heads(page).count()) > 0) await page.locator("[data-plan][aria-pressed=true]").first().click();
    for (let i = 0; i < 3; i++) await points(page).nth(i).click();
    await expect(heads(page)).toHaveCount(3);
    await expect(page.getByRole("group", { name: /^Term map of plan/ })).toHaveCount(3);
    await readsWell(page);
    expect(await axe(page)).toEqual([]);
    const first = await heads(page).first().getAttribute("data-adopt");
    await heads(page).first().click();
    await page.waitForURL(/trials$/);
    await saved(page);
    const { study } = await stored(page, id);
    expect(study.waves).toHaveLength(1);
    expect(study.trials.length).toBeGreaterThan(k);
    expect(`${(study.waves[0].plan as { family?: string }).family}`).toBe(first?.replace(/-\d+-\d+-\d+.*$/, ""));
  });

test("a search under limits stopped half way keeps its best, which keeps the limits", async ({ page }) => {
  const id = await importStudy(page, {
    factors: factors(5),
    responses,
    region: {
      limits: [{ terms: { f1: 1, f2: 1 }, at: "most", bound: 33 }],
      forbidden: [{ f3: { from: 18, to: 20 }, f4: { from: 18, to: 20 } }],
    },
  });
  await visit(page, id, "plan");
  await press(page, "What a plan must tell", "+ curvature");
  await expect(points(page).first()).toBeVisible();
  await page.getByRole("button", { name: "Own plan" }).click();
  await choose(page, "Plan family", "optimal");
  await page.getByLabel("base trials").fill("26");
  await page.getByLabel("random starts").fill("90000");
  await page.getByRole("button", { name: "Put it in the chart" }).click();
  await expect(page.getByText(/own plan: try \d+ of 90000, the best met/)).toBeVisible({ timeout: WORKED_OUT });
  await page.getByRole("button", { name: "stop and keep the best" }).click();
  const own = page.locator('[data-adopt^="own optimal-26"]');
  await expect(own).toBeVisible({ timeout: WORKED_OUT });
  await page.keyboard.press("Escape");
  await own.click();
  await page.waitForURL(/trials$/);
  await saved(page);
  const { study } = await stored(page, id);
  expect(study.trials).toHaveLength(29);
  for (const t of study.trials) {
    const s = t.settings as Record<string, number>;
    expect(s.f1 + s.f2).toBeLessThanOrEqual(33 + 1e-6);
    expect(s.f3 >= 18 && s.f4 >= 18).toBe(false);
  }
});

test("by keyboard alone: a plan picked, its rows opened, a term asked about, adopted", async ({ page }) => {
  const id = await importStudy(page, { factors: factors(4), responses });
  await visit(page, id, "plan");
  await expect(points(page).first()).toBeVisible();
  await searched(page);
  await page.locator('[data-plan="fraction-8-1-3"]').focus();
  await page.keyboard.press("Enter");
  await expect(page.locator('[data-adopt="fraction-8-1-3"]')).toBeVisible();
  await page.getByRole("button", { name: /Chains/ }).focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("region", { name: "Alias chains" })).toContainText("AB = CD");
  // The term map says the chain in words when a cell has the cursor.
  await page
    .getByRole("img", { name: /Setting 1 × Setting 2 cannot be told from/ })
    .first()
    .focus();
  await expect(page.locator("p[aria-live]").filter({ hasText: "Setting 3 × Setting 4" }).first()).toBeVisible();
  await page.locator('[data-adopt="fraction-8-1-3"]').focus();
  await page.keyboard.press("Enter");
  await page.waitForURL(/trials$/);
});

test("own plans: a composite at its own distance; what cannot be made says why and keeps what was typed", async ({
  page,
}) => {
  const id = await importStudy(page, { factors: factors(3, { hardLow: 9, hardHigh: 21 }), responses });
  await visit(page, id, "plan");
  await expect(points(page).first()).toBeVisible();
  await page.getByRole("button", { name: "Own plan" }).click();
  await choose(page, "base trials", "4");
  await page.getByLabel("generators").fill("C=AX");
  await page.getByRole("button", { name: "Put it in the chart" }).click();
  await expect(page.getByRole("tooltip").getByRole("alert")).toContainText("“X” is not the letter of a factor");
  await expect(page.getByLabel("generators")).toHaveValue("C=AX");
  await choose(page, "Plan family", "composite");
  await choose(page, "axial points", "rotatable");
  await page.getByRole("button", { name: "Put it in the chart" }).click();
  await expect(page.getByRole("tooltip").getByRole("alert")).toContainText(
    "lie outside what Setting 1 can be run at (1.200)",
  );
  await choose(page, "axial points", "other");
  await page.getByLabel("Axial distance").fill("1.2");
  await page.getByRole("button", { name: "Put it in the chart" }).click();
  await expect(page.locator('[data-adopt^="own composite"]')).toBeVisible();
  await choose(page, "Plan family", "box-behnken");
  await page.getByLabel("blocks").last().fill("2");
  await page.getByRole("button", { name: "Put it in the chart" }).click();
  await expect(page.getByRole("tooltip").getByRole("alert")).toContainText("no orthogonal blocks");
});

test("a plan of one's own follows the heading: centre points, replicates, blocks, seed; what is adopted is what it says", async ({
  page,
}) => {
  const id = await importStudy(page, { factors: factors(5), responses });
  await visit(page, id, "plan");
  await expect(points(page).first()).toBeVisible();
  await page.getByRole("button", { name: "Own plan" }).click();
  await choose(page, "Plan family", "fraction");
  await page.getByLabel("generators").fill("E=ABC");
  await page.getByRole("button", { name: "Put it in the chart" }).click();
  await page.keyboard.press("Escape");
  const own = page.locator('[data-adopt^="own fraction"]');
  const head = page.locator("div").filter({ has: own }).last();
  await expect(head).toContainText("+ 3");
  const count = async (label: string, value: string): Promise<void> => {
    const field = page.getByLabel(label, { exact: true });
    await field.fill(value);
    await field.press("Enter");
  };
  await count("centre points", "2");
  await expect(head).toContainText("+ 2");
  await expect(page.locator('[data-plan^="own fraction"]')).toContainText("18 trials");
  await count("replicates", "2");
  await count("blocks", "2");
  await count("seed", "9");
  await expect(head).toContainText("× 2");
  await expect(own).toBeVisible();
  await own.click();
  await page.waitForURL(/trials$/);
  await saved(page);
  const { study } = await stored(page, id);
  // 16 corners twice and two centre points, in two blocks, on the seed of the heading.
  expect(study.trials).toHaveLength(34);
  expect(study.waves).toHaveLength(2);
  expect(study.waves[0].plan.seed).toBe(9);
});

test("a plan is kept under a name, outlives a reload, goes out as CSV, and is let go", async ({ page }) => {
  const id = await importStudy(page, { factors: factors(5), responses });
  await visit(page, id, "plan");
  await expect(points(page).first()).toBeVisible();
  await searched(page);
  const adopt = heads(page).first();
  await expect(adopt).toBeVisible();
  await page.getByRole("button", { name: "keep", exact: true }).first().click();
  await page.getByLabel("Name of the plan").fill("For Monday");
  await page.keyboard.press("Enter");
  await saved(page);
  await page.reload();
  await page.locator('[data-ready="yes"]').waitFor();
  const rival = page.locator('[data-plan^="rival"]');
  await expect(rival).toBeVisible({ timeout: WORKED_OUT });
  await searched(page);
  if ((await rival.getAttribute("aria-pressed")) === "false") await rival.click();
  await expect(page.getByText("For Monday").first()).toBeVisible();
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: "CSV" }).last().click(),
  ]);
  const text = readFileSync(await download.path(), "utf8");
  expect(text.split("\n")[0]).toContain("order,standard,wave,kind,state,f1,f2,f3,f4,f5");
  expect(text.trim().split("\n").length).toBeGreaterThan(8);
  await page.getByRole("button", { name: "let go" }).click();
  await expect(rival).toHaveCount(0, { timeout: WORKED_OUT });
});

test("categories alone are planned without centre points, unasked", async ({ page }) => {
  const id = await importStudy(page, {
    factors: ["Resin", "Cure", "Line"].map((name, i) => ({
      id: `c${i}`,
      name,
      kind: "categorical",
      levels: i === 0 ? ["red", "blue", "grey"] : ["one", "two"],
    })),
    responses,
  });
  await visit(page, id, "plan");
  await expect(points(page).first()).toBeVisible();
  await expect(page.getByLabel("centre points", { exact: true })).toHaveValue("0");
  // Asked for all the same, they are refused with the reason that most plans have.
  await page.getByLabel("centre points", { exact: true }).fill("2");
  await expect(page.getByRole("heading", { name: "No plan in sight" })).toBeVisible({ timeout: WORKED_OUT });
  await expect(page.getByRole("main")).toContainText(/centre/i);
});

test("trials run elsewhere become a wave; a sheet that lacks a factor says which", async ({ page }) => {
  const id = await importStudy(page, { factors: factors(2), responses });
  await visit(page, id, "plan");
  await page.getByRole("button", { name: /trials run elsewhere/i }).click();
  const box = page.getByLabel("Trials as text");
  await box.fill("Setting 1,Yield\n10,3.1");
  await expect(page.getByRole("dialog").getByRole("alert")).toContainText("no column for Setting 2");
  await box.fill("Setting 1;Setting 2;Yield (kg);Operator\n10;12;3,1;me\n20;18,5;4,4;you\nhot;1;2;me");
  await expect(page.getByRole("dialog").getByRole("status")).toContainText(
    "2 trials, 2 with results. Not used: Operator.",
  );
  await expect(page.getByRole("dialog").getByRole("status")).toContainText("“hot” is not a setting of Setting 1");
  await page.getByRole("button", { name: "Take 2 trials as a wave" }).click();
  await page.waitForURL(/trials$/);
  await saved(page);
  const { study } = await stored(page, id);
  expect(study.trials.map((t) => [t.settings.f1, t.settings.f2, t.results.y, t.state])).toEqual([
    [10, 12, 3.1, "done"],
    [20, 18.5, 4.4, "done"],
  ]);
});

test("terms picked one by one, a cubic typed, are what plans are built for", async ({ page }) => {
  const id = await importStudy(page, { factors: factors(2), responses });
  await visit(page, id, "plan");
  await press(page, "What a plan must tell", "main effects");
  await expect(points(page).first()).toBeVisible();
  await page.getByRole("button", { name: "pick terms" }).click();
  await page.getByRole("button", { name: "Setting 1²", exact: true }).click();
  await page.getByLabel("Higher term in letters").fill("AAZ");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("tooltip").getByRole("alert")).toContainText("“Z” is not the letter of a factor");
  await page.getByLabel("Higher term in letters").fill("AAA");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Escape");
  await expect(page.locator("aside")).toContainText("the 4 terms picked");
  await searched(page);
  await expect(page.locator('[data-plan^="optimal-"]').first()).toBeVisible();
  expect(await page.locator('[data-plan^="optimal-"]').first().getAttribute("aria-label")).toContain(
    "tells all that is asked",
  );
});

test("server and headless command make the same plan from the same seed; a search on the server is cancelled and keeps its best", async ({
  page,
}) => {
  const study = { format: "trialmoor-study", version: 1, title: "Same", factors: factors(4), responses };
  const id = await importStudy(page, study);
  const ask = { family: "optimal", trials: 12, terms: "main+2fi", seed: 3, starts: 8 };
  const answer = (await (await page.request.post(`/api/studies/${id}/plan`, { data: ask })).json()) as {
    trials: { settings: object; order: number }[];
  };
  const headless = spawnSync(
    process.execPath,
    [
      "dist/headless.mjs",
      "plan",
      "-",
      "--family",
      "optimal",
      "--trials",
      "12",
      "--terms",
      "main+2fi",
      "--seed",
      "3",
      "--starts",
      "8",
      "--json",
    ],
    { input: JSON.stringify(study), encoding: "utf8" },
  );
  expect((JSON.parse(headless.stdout) as typeof answer).trials).toEqual(answer.trials);

  const started = await page.request.post(`/api/studies/${id}/plan`, {
    data: { family: "optimal", trials: 24, terms: "quadratic", starts: 90_000, background: true },
  });
  const job = ((await started.json()) as { id: string }).id;
  const read = async () =>
    (await (await page.request.get(`/api/jobs/${job}`)).json()) as {
      state: string;
      text: string;
      answer: { trials: object[] } | null;
    };
  await expect.poll(async () => (await read()).text, { timeout: WORKED_OUT }).toContain("D-efficiency");
  await page.request.delete(`/api/jobs/${job}`);
  await expect.poll(async () => (await read()).state, { timeout: WORKED_OUT }).toBe("stopped");
  expect((await read()).answer?.trials).toHaveLength(24);
});

test("what cannot be planned is refused by the server in one sentence", async ({ page, allowed }) => {
  allowed.statuses.push(422);
  const id = await importStudy(page, {
    factors: factors(3),
    responses,
    region: {
      limits: [
        { terms: { f1: 1, f2: 1 }, at: "most", bound: 25 },
        { terms: { f1: 1, f2: 1 }, at: "least", bound: 35 },
      ],
      forbidden: [],
    },
  });
  const open = await importStudy(page, { factors: factors(3), responses });
  const refusal = async (data: object, study = open): Promise<string> => {
    const response = await page.request.post(`/api/studies/${study}/plan`, { data });
    expect(response.status()).toBe(422);
    return ((await response.json()) as { detail: string }).detail;
  };
  expect(await refusal({ family: "optimal", trials: 8 }, id)).toContain("No point was found that keeps every limit");
  expect(await refusal({ family: "optimal", trials: 5, terms: "quadratic" })).toContain("10 columns; 5 trials cannot");
  expect(await refusal({ family: "factorial", replicates: 4000 })).toContain("most is 5000");
  expect(await refusal({ family: "definitive" })).toContain("four to sixteen factors");
  // On the screen the same region leaves no plan, and says why.
  await visit(page, id, "plan");
  await expect(page.locator("main")).toContainText(/excludes every trial|No point was found/, { timeout: WORKED_OUT });
  await readsWell(page);
});

test("what is marked first stands while searches run, with why; the one to go by is last", async ({ page }) => {
  const id = await importStudy(page, { factors: factors(4), responses: [{ ...responses[0], smallest: 1 }] });
  await visit(page, id, "plan");
  await expect(heads(page)).toHaveCount(2, { timeout: WORKED_OUT });
  const marked = (): Promise<(string | null)[]> =>
    heads(page).evaluateAll((all) => all.map((h) => h.getAttribute("data-adopt")));
  const before = await marked();
  // 2 σ asked for: what costs less tells the pairs, but sees no less than 2.5.
  expect(before[1]).toBe("factorial-16-1-3");
  const reading = page.locator("aside").last();
  await expect(reading).toContainText("Take b, Full factorial 16: the cheapest that tells all that is asked");
  await searched(page);
  expect(await marked()).toEqual(before);
});

test("after a wave: so many more trials, and a climb that asks how far factors can be set before it is planned", async ({
  page,
}) => {
  const id = await importStudy(page, {
    factors: [
      { id: "a", name: "Heat", unit: "°C", kind: "continuous", low: -1, high: 1 },
      { id: "b", name: "Dose", kind: "continuous", low: -1, high: 1 },
    ],
    responses: [{ id: "y", name: "Yield", goal: { aim: "raise", low: 40, high: 60 } }],
    waves: [{ id: "w" }],
    trials: [-1, 1, -1, 1, -1, 1, -1, 1].map((a, i) => {
      const b = i % 4 < 2 ? -1 : 1;
      return {
        id: `t${i}`,
        wave: "w",
        kind: "factorial",
        state: "done",
        settings: { a, b },
        results: { y: 10 + 3 * a + b + (i < 4 ? 0.1 : -0.1) },
      };
    }),
    models: [{ response: "y", terms: [["a"], ["b"]] }],
    costs: { unit: "h", trial: 2, wave: 8 },
  });
  await visit(page, id, "plan");
  const next = page.getByTestId("next-wave");
  const climb = next.locator('[data-follow="ascent"]');
  await expect(climb).toContainText("The path leaves the ranges: its next step would set Heat to 1.5 °C");
  const limit = climb.getByLabel("Heat can be set to at most");
  await limit.fill("far");
  await limit.press("Enter");
  await expect(climb.getByRole("alert")).toContainText("“far” is not a number");
  await limit.fill("2.2");
  await limit.press("Enter");
  await expect(climb.getByRole("button", { name: "Adopt" })).toBeVisible();
  await saved(page);
  const more = page.getByTestId("next-wave").getByRole("button", { name: /more kinds/ });
  if (await more.isVisible()) await more.click();
  const augment = next.locator('[data-follow="augment"]');
  await augment.getByLabel("this many").fill("5");
  await expect(augment).toContainText("+5");
  // Five trials and a wave, in hours: 5 × 2 + 8.
  await expect(augment).toContainText("18 h");
  expect(await axe(page)).toEqual([]);
  await climb.getByRole("button", { name: "Adopt" }).click();
  await page.waitForURL(/trials$/);
  await saved(page);
  const { study } = await stored(page, id);
  // Within the ranges two steps, then up to 2 of the 2.2 that can be set.
  expect(study.trials.slice(8).map((t) => t.settings.a)).toEqual([0.5, 1, 1.5, 2]);
});
