import {
  axe,
  candidatesFound,
  choose,
  expect,
  importStudy,
  openExample,
  press,
  readsWell,
  saved,
  stored,
  test,
  visit,
  WORKED_OUT,
} from "./help";

/** An example of three factors and two responses: what does not ask for more is searched in a third of the time. */
const SMALL = "raspberry-drying";

test("search, hold a factor, search again, choose: the setpoint is on settable steps", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "setpoint");
  await candidatesFound(page);
  expect(await axe(page)).toEqual([]);
  await press(page, "Wool lot at the probe", "lowland");
  await choose(page, "Hold a factor at the probe", "lot");
  await page.getByRole("button", { name: /Search/ }).click();
  await expect(page.getByTestId("candidates").locator("tbody tr").first()).toContainText("lowland", {
    timeout: WORKED_OUT,
  });
  await page.getByRole("button", { name: "Choose" }).first().click();
  await saved(page);
  await expect(page.locator('[data-reading="choose"]')).toHaveCount(0);
  await expect(page.locator('[data-reading="confirm"]')).toBeVisible();
  const { study } = await stored(page, id);
  const { temp, dose, feed, lot } = (study.setpoint ?? { settings: {} }).settings as {
    temp: number;
    dose: number;
    feed: number;
    lot: string;
  };
  expect([temp % 1, (dose * 2) % 1, feed % 10, lot]).toEqual([0, 0, 0, "lowland"]);
  await readsWell(page);
});

test("a changed goal makes candidates stale and says so", async ({ page }) => {
  const id = await openExample(page, SMALL);
  await visit(page, id, "setpoint");
  await candidatesFound(page);
  await page.getByLabel("Colour kept: importance").fill("60 %");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("button", { name: "Search again" })).toBeVisible();
  await expect(page.locator("aside").last()).toContainText("Something changed since the last search");
  await saved(page);
});

test("a search whose worker cannot be loaded says so, and the next one runs", async ({ page, allowed }) => {
  const id = await openExample(page, SMALL);
  allowed.statuses.push(404);
  allowed.failing.push("turbopack-worker");
  const worker = "**/turbopack-worker-*";
  await page.route(worker, (route) => route.fulfill({ status: 404 }));
  await visit(page, id, "setpoint");
  await expect(page.getByRole("main").getByRole("alert")).toHaveText(/failed in the page; try again/);
  await expect(page.getByTestId("candidates")).toHaveCount(0);
  await page.unroute(worker);
  await page.getByRole("button", { name: "Search the region" }).click();
  await candidatesFound(page);
  await expect(page.getByRole("main").getByRole("alert")).toHaveCount(0);
});

test("page, server and headless figures are the same for the same seed", async ({ page }) => {
  const id = await openExample(page, SMALL);
  const answer = await page.request.post(`/api/studies/${id}/setpoint`, { data: { seed: 1 } });
  const { settable } = (await answer.json()) as { settable: { overall: number; settings: Record<string, unknown> } };
  await visit(page, id, "setpoint");
  await expect(page.getByTestId("candidates").locator("tbody tr").first()).toContainText(settable.overall.toFixed(3), {
    timeout: WORKED_OUT,
  });
});

test("a knee dragged is one change, undone in one step", async ({ page }) => {
  const id = await openExample(page, SMALL);
  await visit(page, id, "setpoint");
  const lowOf = async (): Promise<number | undefined> =>
    ((await stored(page, id)).study.responses as { id: string; goal?: { low?: number } }[]).find(
      (r) => r.id === "colour",
    )?.goal?.low;
  const before = await lowOf();
  const knee = page.getByRole("slider", { name: "Colour kept: low" });
  // What comes in later moves it: it is taken hold of once everything is there.
  await candidatesFound(page);
  await knee.hover();
  const box = await knee.boundingBox();
  if (!box) throw new Error("The knee is not on the screen.");
  await page.mouse.move(box.x + 5, box.y + 5);
  await page.mouse.down();
  for (let i = 1; i <= 6; i++) await page.mouse.move(box.x + 5 + 6 * i, box.y + 5);
  await page.mouse.up();
  await expect.poll(lowOf).toBeGreaterThan(before ?? 0);
  await page.getByRole("button", { name: /^Undo/ }).click();
  await saved(page);
  expect(await lowOf()).toBe(before);
});

/** Two factors in a grid of nine, and eight responses that are straight in them. */
const eight = {
  factors: [
    { id: "a", name: "Heat", kind: "continuous", low: -1, high: 1, step: 0.1 },
    { id: "b", name: "Dose", kind: "continuous", low: -1, high: 1, step: 0.1 },
    { id: "c", name: "Feed", kind: "continuous", low: -1, high: 1, step: 0.1 },
  ],
  responses: Array.from({ length: 8 }, (_, r) => ({
    id: `y${r}`,
    name: `Response number ${r + 1} of eight`,
    noise: 0.2,
    importance: 1 + (r % 5),
    goal: r % 2 ? { aim: "raise", low: -4, high: 4 } : { aim: "lower", low: -4, high: 4 },
  })),
  waves: [{ id: "w" }],
  trials: [-1, 1].flatMap((a) =>
    [-1, 1].flatMap((b) =>
      [-1, 1].map((c, k) => ({
        id: `t${a}${b}${c}`,
        wave: "w",
        state: "done",
        settings: { a, b, c },
        results: Object.fromEntries(
          Array.from({ length: 8 }, (_, r) => [
            `y${r}`,
            Math.cos(r) * a + Math.sin(r) * b + 0.3 * c + 0.05 * ((k + r) % 3),
          ]),
        ),
      })),
    ),
  ),
  models: Array.from({ length: 8 }, (_, r) => ({ response: `y${r}`, terms: [["a"], ["b"], ["c"]] })),
};

test("with eight responses candidates stand as columns, all wishes are in sight, and one is chosen by keyboard", async ({
  page,
}) => {
  const id = await importStudy(page, eight);
  await visit(page, id, "setpoint");
  const candidates = page.getByTestId("candidates");
  await expect(candidates.getByRole("rowheader")).toHaveCount(3 + 8 + 2, { timeout: WORKED_OUT });
  for (let r = 1; r <= 8; r++)
    await expect(page.getByRole("group", { name: `Response number ${r} of eight: worth` })).toBeInViewport();
  expect(await page.evaluate(() => document.documentElement.scrollWidth <= window.innerWidth)).toBe(true);
  await candidates.getByRole("button", { name: "Choose" }).first().focus();
  await page.keyboard.press("Enter");
  await saved(page);
  expect((await stored(page, id)).study.setpoint).toBeDefined();
  expect(await axe(page)).toEqual([]);
  await readsWell(page);
});

test("three factors at once: the third goes along to where it is best", async ({ page }) => {
  const id = await importStudy(page, {
    ...eight,
    responses: [{ id: "y0", name: "Yield", noise: 0.1, goal: { aim: "raise", low: -3, high: 3 } }],
    // y = a·c: the best c follows the sign of a.
    trials: eight.trials.map((t) => ({ ...t, results: { y0: t.settings.a * t.settings.c + 0.5 * t.settings.b } })),
    models: [{ response: "y0", terms: [["a"], ["b"], ["c"], ["a", "c"]] }],
  });
  await visit(page, id, "setpoint");
  await candidatesFound(page);
  await choose(page, "Picture", "three");
  await choose(page, "Across", "a");
  await choose(page, "Upwards", "b");
  await choose(page, "Slices over", "c");
  const map = page.getByRole("application", { name: /with Feed where it is best/ });
  await map.focus();
  const feed = page.getByRole("slider", { name: "Feed at the probe" });
  for (const [key, wanted] of [
    ["ArrowLeft", "-1"],
    ["ArrowRight", "1"],
  ]) {
    for (let i = 0; i < 20; i++) await page.keyboard.press(key);
    await expect(feed).toHaveAttribute("aria-valuenow", wanted);
  }
  expect(await axe(page)).toEqual([]);
});

test("what cannot be held is refused in one sentence, by the server too", async ({ page, allowed }) => {
  allowed.statuses.push(422);
  const id = await importStudy(page, eight);
  for (const [hold, sentence] of [
    [{ a: 7 }, /Heat cannot be held at 7; hold it between -?−?1 and 1/],
    [{ lid: 1 }, /There is no factor “lid” to hold/],
  ] as const) {
    const answer = await page.request.post(`/api/studies/${id}/setpoint`, { data: { hold } });
    expect(answer.status()).toBe(422);
    expect(((await answer.json()) as { detail: string }).detail).toMatch(sentence);
  }
});

test("eighty buttons of a confirmation are eighty units: spread, Ppk and picture; the probe speaks of one unit", async ({
  page,
}) => {
  const corners = [-1, 1].flatMap((b) => [-1, 1].map((a) => ({ heat: 140 + 10 * a, press: 6 + 2 * b })));
  const sets = [...corners, ...corners, { heat: 140, press: 6 }, { heat: 140, press: 6 }];
  // Trials off their plane by ±0.01 in turn; units of each −0.04, 0, 0.04 about it.
  const trials = sets.map((settings, i) => {
    const mean = 8 - 0.01 * (settings.heat - 140) - 0.075 * (settings.press - 6) + (i % 3 === 0 ? 0.01 : -0.005);
    const thick = [-0.04, 0, 0.04].map((d) => Number((mean + d).toFixed(4)));
    return { id: `t${i + 1}`, wave: "w1", state: "done", settings, results: { thick } };
  });
  const units = Array.from({ length: 80 }, (_, i) => Number((8.01 + 0.05 * Math.sin(7 * i)).toFixed(4)));
  const id = await importStudy(page, {
    factors: [
      { id: "heat", name: "Platen temperature", unit: "°C", kind: "continuous", low: 130, high: 150, step: 1 },
      { id: "press", name: "Pressure", unit: "MPa", kind: "continuous", low: 4, high: 8, step: 0.1 },
    ],
    responses: [
      {
        id: "thick",
        name: "Thickness",
        unit: "mm",
        several: "units",
        goal: { aim: "within", low: 7.8, target: 8, high: 8.2 },
      },
    ],
    waves: [{ id: "w1" }, { id: "w2" }],
    trials: [
      ...trials,
      {
        id: "c1",
        wave: "w2",
        kind: "confirm",
        use: false,
        state: "done",
        settings: { heat: 140, press: 6 },
        results: { thick: units },
      },
    ],
    models: [{ response: "thick", terms: [["heat"], ["press"]] }],
    setpoint: { settings: { heat: 140, press: 6 } },
  });
  const mean = units.reduce((t, v) => t + v, 0) / 80;
  const s = Math.sqrt(units.reduce((t, v) => t + (v - mean) ** 2, 0) / 79);
  const ppk = Math.min(8.2 - mean, mean - 7.8) / (3 * s);
  const said = (await (await page.request.post(`/api/studies/${id}/verdict`, { data: {} })).json()).responses.thick;
  expect(said.units.ppk).toBeCloseTo(ppk, 10);
  expect([said.units.n, said.units.withinOnly, said.units.outside.counted]).toEqual([80, true, 0]);
  await visit(page, id, "setpoint");
  const shown = page.getByRole("region", { name: "Units of Thickness" });
  await expect(shown).toContainText("80 units of 1 trial");
  await expect(shown).toContainText(ppk.toFixed(2));
  await expect(shown).toContainText("All units come from one trial");
  await expect(shown.getByRole("img", { name: /80 units of Thickness/ })).toBeVisible();
  await expect(page.getByText(/one unit/).first()).toBeVisible();
  expect(await axe(page)).toEqual([]);
});

test("waves apart: the probe stands as in each wave and in a new one, and the verdict says which level results have", async ({
  page,
}) => {
  // Three waves of a 2² about 10 + a, three apart; trials off that sum to nothing in each, so that levels are 10, 13, 16.
  const off = [0.3, -0.2, 0.1, -0.2, -0.1, 0.3, -0.3, 0.1, 0.2, -0.4, 0.1, 0.1];
  const level = (k: number): number => 10 + 3 * k;
  const trials = off.map((e, i) => {
    const settings = { a: i % 2 ? 1 : -1, b: i % 4 < 2 ? -1 : 1 };
    const k = Math.floor(i / 4);
    return { id: `t${i}`, wave: "uvw"[k], state: "done", settings, results: { y: level(k) + settings.a + e } };
  });
  const confirming = [15.9, 16.2].map((y, i) => ({
    id: `c${i}`,
    wave: "c",
    kind: "confirm",
    use: false,
    state: "done",
    settings: { a: 0, b: 0 },
    results: { y },
  }));
  const factor = { kind: "continuous", low: -1, high: 1, step: 0.1 };
  const id = await importStudy(page, {
    factors: [
      { id: "a", name: "Heat", ...factor },
      { id: "b", name: "Dose", ...factor },
    ],
    responses: [{ id: "y", name: "Yield", goal: { aim: "hit", low: 8, target: 16, high: 24 } }],
    waves: ["First", "Second", "Third", "Proof"].map((name, i) => ({ id: "uvwc"[i], name })),
    trials: [...trials, ...confirming],
    models: [{ response: "y", terms: [["a"], ["b"]] }],
    setpoint: { settings: { a: 0, b: 0 } },
  });
  await visit(page, id, "setpoint");
  // What is found takes the probe with it.
  await candidatesFound(page);
  await page.getByRole("button", { name: "setpoint", exact: true }).click();
  const byWave = page.getByRole("region", { name: "By wave, at the probe" });
  await expect(byWave).toContainText(/Waves differ in Yield \(p (under 0\.001|0\.\d+)\)/);
  const row = byWave.getByRole("row", { name: /^Yield/ });
  /** The figures of a cell of the row: a mean, or the ends of an interval. */
  const cell = async (k: number): Promise<number[]> =>
    ((await row.getByRole("cell").nth(k).innerText()).match(/−?\d+(\.\d+)?/g) ?? []).map((t) =>
      Number(t.replace("−", "-")),
    );
  const width = ([low, high]: number[]): number => high - low;
  await expect.poll(async () => (await cell(1))[0]).toBe(16);
  for (const [wave, mean] of [
    ["u", 10],
    ["v", 13],
  ] as const) {
    await choose(page, "Wave to predict as in", wave);
    await expect.poll(async () => (await cell(1))[0]).toBe(mean);
    const [low, high] = await cell(2);
    expect((low + high) / 2).toBeCloseTo(mean, 1);
  }
  // Levels three apart say far more about a new wave's trial than noise of a quarter does.
  expect(width(await cell(3))).toBeGreaterThan(5 * width(await cell(2)));
  await expect(page.getByRole("row", { name: /Yield.*agrees.*as in Third/ })).toBeVisible();
  expect(await axe(page)).toEqual([]);
  await readsWell(page);
});
