import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { type OwnServer, ownServer } from "../src/server/testing/own-server";
import { axe, expect, importStudy, readsWell, stored, tabletOf, test, WORKED_OUT } from "./help";

const study = (trials: number) => ({
  factors: [
    { id: "bowl", name: "Bowl temperature", unit: "°C", kind: "continuous", low: 52, high: 68, change: "hard" },
    { id: "soda", name: "Soda ash", unit: "g/L", kind: "continuous", low: 0, high: 6 },
    { id: "lot", name: "Wool lot", kind: "categorical", levels: ["hill", "lowland"] },
  ],
  responses: [
    { id: "white", name: "Whiteness", bounds: { min: 0 } },
    { id: "grease", name: "Grease", unit: "%" },
  ],
  waves: [{ id: "w", name: "First" }],
  trials: Array.from({ length: trials }, (_, i) => ({
    id: `t${i + 1}`,
    wave: "w",
    order: i + 1,
    settings: { bowl: i % 4 < 2 ? 52 : 68, soda: i % 2 ? 6 : 0, lot: i % 3 ? "hill" : "lowland" },
    ...(i < 3 ? { state: "done", results: { white: [55.7, 64.8, 60.5][i], grease: 0.5 } } : {}),
  })),
});
const sent = { name: "All entries are sent." };

test("one trial at a time by keys: what changes stands out, odd results are asked about, each is taken back alone", async ({
  page,
}) => {
  const id = await importStudy(page, study(8));
  await page.goto(`/studies/${id}/bench`);
  await page.locator('[data-ready="yes"]').waitFor();
  await expect(page.getByRole("heading", { name: "Trial 4 of 8" })).toBeVisible();
  // Trial 3 stood at 68, 0, hill; trial 4 asks for 68, 6, lowland.
  const settings = page.getByRole("region", { name: "Settings" });
  await expect(settings).toContainText("Change these two, leave the rest");
  await expect(settings).toContainText("Soda ash");
  await settings.getByRole("button", { name: "Set up", exact: true }).click();
  await expect(settings.getByRole("button", { name: /^Set up at \d\d:\d\d/ })).toBeVisible();
  const white = page.getByLabel("Whiteness", { exact: true });
  await white.fill("621");
  await white.press("Enter");
  await expect(page.getByRole("alert").first()).toContainText(
    "Typed 621; the others lie between 55.7 and 64.8. Did you mean 62.1?",
  );
  expect(await axe(page)).toEqual([]);
  await page.getByRole("button", { name: "62.1 was meant" }).click();
  await expect(white).toHaveValue("62.1");
  const grease = page.getByLabel("Grease", { exact: true });
  await grease.fill("about 5");
  await grease.press("Enter");
  await expect(page.getByRole("alert").first()).toContainText("Grease: “about 5” is not a number");
  await expect(grease).toHaveValue("about 5");
  await grease.fill("600 610");
  await grease.press("Enter");
  await expect(page.getByRole("alert").first()).toContainText("Grease: “600 610” may be several readings");
  await expect(grease).toHaveValue("600 610");
  await grease.fill("0,52");
  await grease.press("Enter");
  await page.getByRole("button", { name: "One more reading of Grease" }).click();
  await page.getByLabel("Grease, reading 2").fill("0.56");
  await page.getByLabel("Grease, reading 2").press("Enter");
  await page.getByLabel("Note", { exact: true }).fill("foam on the bowl");
  await page.getByLabel("Note", { exact: true }).blur();
  await settings.getByRole("button", { name: "It was set otherwise" }).click();
  await page.getByLabel("Bowl temperature, really set").fill("67");
  await page.getByLabel("Bowl temperature, really set").press("Enter");
  await settings.getByRole("button", { name: "Done" }).click();
  await expect(settings).toContainText("planned 68");
  await expect(page.getByRole("status").filter({ hasText: sent.name })).toBeVisible();
  let t4 = (await stored(page, id)).study.trials[3] as unknown as Record<string, unknown>;
  expect(t4).toMatchObject({
    state: "done",
    results: { white: 62.1, grease: [0.52, 0.56] },
    asRun: { bowl: 67 },
    note: "foam on the bowl",
  });
  expect(Number.isNaN(Date.parse(String(t4.setUp)))).toBe(false);
  // Left without an answer, what was typed stands; it is taken back alone.
  await white.fill("640");
  await white.press("Enter");
  await expect(page.getByRole("alert").first()).toContainText("Did you mean 64?");
  await page.keyboard.press("PageDown");
  await page.keyboard.press("PageUp");
  await expect(white).toHaveValue("640");
  await page.getByRole("button", { name: "Take Whiteness back" }).click();
  await expect(page.getByRole("status").filter({ hasText: sent.name })).toBeVisible();
  t4 = (await stored(page, id)).study.trials[3] as unknown as Record<string, unknown>;
  expect(t4.results).toEqual({ grease: [0.52, 0.56] });
  // On, by keys; failed with its reason; back to any; what a scanner types leads to its trial.
  await page.keyboard.press("PageDown");
  await expect(page.getByRole("heading", { name: "Trial 5 of 8" })).toBeVisible();
  await page.getByRole("button", { name: "Failed…" }).click();
  await page.getByLabel("Reason").fill("belt slipped");
  await page.getByRole("button", { name: "It failed" }).click();
  await expect(page.getByRole("heading", { name: "Trial 6 of 8" })).toBeVisible();
  await white.fill(`http://127.0.0.1/studies/${id}/bench#trial-8`);
  await white.press("Enter");
  await expect(page.getByRole("heading", { name: "Trial 8 of 8" })).toBeVisible();
  await page.getByRole("button", { name: "All trials" }).click();
  await page.getByRole("button", { name: "Trial 5, failed" }).click();
  await expect(page.getByRole("heading", { name: "Trial 5 of 8" })).toBeVisible();
  expect((await stored(page, id)).study.trials[4]).toMatchObject({ state: "failed", why: "belt slipped" });
  // The next with least change from 52, 0, hill: 7 would move the hard bowl, 6 the soda alone.
  await page.getByLabel("next with least change").check();
  await expect(page.getByRole("status").filter({ hasText: "Not at random any more" })).toBeVisible();
  await page.getByRole("button", { name: "Next trial ›" }).click();
  await expect(page.getByRole("heading", { name: "Trial 6 of 8" })).toBeVisible();
  await readsWell(page);
});

for (const [width, height] of [
  [360, 740],
  [820, 1180],
  [1280, 800],
])
  test(`the bench stands in ${width} px, fifteen settings with long names too, every target large enough`, async ({
    page,
  }) => {
    await page.setViewportSize({ width, height });
    const base = study(4);
    const many = Array.from({ length: 12 }, (_, i) => ({
      id: `f${i}`,
      name: `Residual moisture of the outermost layer ${i}`,
      unit: "g/kg",
      kind: "continuous",
      low: 0,
      high: 1,
    }));
    const more = Object.fromEntries(many.map((f) => [f.id, 0.5]));
    const id = await importStudy(page, {
      ...base,
      factors: [...base.factors, ...many],
      trials: base.trials.map((t) => ({ ...t, settings: { ...t.settings, ...more } })),
    });
    await page.goto(`/studies/${id}/bench`);
    await page.locator('[data-ready="yes"]').waitFor();
    expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)).toBeLessThanOrEqual(0);
    expect(await axe(page)).toEqual([]);
    const small = await page.evaluate(() =>
      [...document.querySelectorAll("button, input, textarea")]
        .filter(
          (e) => !(e as HTMLInputElement).type.includes("checkbox") && getComputedStyle(e).visibility !== "hidden",
        )
        .map((e) => ({ name: e.getAttribute("aria-label") ?? e.textContent, box: e.getBoundingClientRect() }))
        .filter(({ box }) => box.height > 0 && (box.height < 48 || box.width < 48))
        .map(({ name, box }) => `${name} ${box.width}×${box.height}`),
    );
    expect(small).toEqual([]);
  });

test("two tablets on one study: entries of both stand; the same cell is shown side by side", async ({
  page,
  context,
  allowed,
}) => {
  allowed.statuses = [409];
  const id = await importStudy(page, study(6));
  const other = await context.newPage();
  for (const p of [page, other]) {
    await p.goto(`/studies/${id}/bench#trial-4`);
    await p.locator('[data-ready="yes"]').waitFor();
  }
  const enter = async (p: typeof page, name: string, text: string): Promise<void> => {
    await p.getByLabel(name, { exact: true }).fill(text);
    await p.getByLabel(name, { exact: true }).press("Enter");
  };
  await enter(page, "Whiteness", "61");
  await expect(page.getByRole("status").filter({ hasText: sent.name })).toBeVisible();
  await enter(other, "Grease", "0.55");
  await expect(other.getByRole("status").filter({ hasText: sent.name })).toBeVisible();
  expect((await stored(page, id)).study.trials[3].results).toEqual({ white: 61, grease: 0.55 });
  await page.goto(`/studies/${id}/bench#trial-5`);
  await page.locator('[data-ready="yes"]').waitFor();
  await other.getByRole("button", { name: "Next trial ›" }).click();
  await enter(page, "Whiteness", "62");
  await expect(page.getByRole("status").filter({ hasText: sent.name })).toBeVisible();
  await enter(other, "Whiteness", "63");
  const dialog = other.getByRole("dialog");
  await expect(dialog).toContainText("What shall stand at Whiteness of trial 5?");
  await expect(dialog.getByRole("button", { name: "theirs: 62" })).toBeVisible();
  await dialog.getByRole("button", { name: "mine: 63" }).click();
  await expect.poll(async () => (await stored(page, id)).study.trials[4].results.white).toBe(63);
});

test("cuts of the network during entry, some before and some after the server took it: nothing lost, nothing twice", async ({
  page,
  allowed,
}) => {
  allowed.statuses = [503];
  const id = await importStudy(page, study(16));
  let cuts = 0;
  let seed = 7;
  const random = (): number => {
    seed = (seed * 16807) % 2147483647;
    return seed / 2147483647;
  };
  await page.route("**/entries", async (route) => {
    const fate = random();
    if (fate < 0.3) {
      cuts++;
      await route.fulfill({ status: 503, json: { detail: "cut" } });
    } else if (fate < 0.6) {
      cuts++;
      // Taken by the server, its answer lost.
      await route.fetch();
      await route.fulfill({ status: 503, json: { detail: "cut" } });
    } else await route.continue();
  });
  await page.goto(`/studies/${id}/bench`);
  await page.locator('[data-ready="yes"]').waitFor();
  for (let i = 4; i <= 16; i++) {
    await page.getByLabel("Whiteness", { exact: true }).fill(String(56 + i / 10));
    await page.getByLabel("Whiteness", { exact: true }).press("Enter");
    await page.keyboard.press("PageDown");
  }
  await expect(page.getByRole("status").filter({ hasText: sent.name })).toBeVisible({ timeout: WORKED_OUT });
  const { study: after, revision } = await stored(page, id);
  expect(after.trials.slice(3).map((t) => t.results.white)).toEqual(
    Array.from({ length: 13 }, (_, i) => 56 + (i + 4) / 10),
  );
  expect(revision).toBe(14);
  expect(cuts).toBeGreaterThan(10);
});

test("the server killed and started again, the page reloaded meanwhile: twenty entries are kept and sent once", async ({
  browser,
  page,
  allowed,
}) => {
  allowed.statuses = [503];
  const port = 4296;
  const base = `http://127.0.0.1:${port}`;
  const folder = mkdtempSync(join(tmpdir(), "trialmoor-bench-e2e-"));
  const start = (): Promise<OwnServer> => ownServer(port, folder);
  let server = await start();
  try {
    const made = await page.request.post(`${base}/api/studies/import`, {
      data: { format: "trialmoor-study", version: 1, title: "Away", ...study(30) },
    });
    const [{ id }] = (await made.json()) as { id: string }[];
    const away = await browser.newPage();
    await away.goto(`${base}/studies/${id}/bench`);
    await away.locator('[data-ready="yes"]').waitFor();
    // The page and its files are kept once the worker says so.
    await away.locator('body[data-kept="yes"]').waitFor({ timeout: WORKED_OUT });
    const enter = async (n: number): Promise<void> => {
      await away.getByLabel("Whiteness", { exact: true }).fill(String(56 + n / 10));
      await away.getByLabel("Whiteness", { exact: true }).press("Enter");
      await away.keyboard.press("PageDown");
    };
    for (let n = 4; n < 8; n++) await enter(n);
    await expect(away.getByRole("status").filter({ hasText: sent.name })).toBeVisible();
    await server.stop("SIGKILL");
    for (let n = 8; n < 18; n++) await enter(n);
    await expect(away.getByRole("status").first()).toContainText(
      "10 entries waiting to be sent: the network is away. They are kept on this device.",
    );
    await away.reload();
    await away.locator('[data-ready="yes"]').waitFor();
    await expect(away.getByRole("status").first()).toContainText("10 entries waiting to be sent");
    for (let n = 18; n < 28; n++) await enter(n);
    await expect(away.getByRole("status").first()).toContainText("20 entries waiting");
    server = await start();
    await expect(away.getByRole("status").filter({ hasText: sent.name })).toBeVisible({ timeout: WORKED_OUT });
    const { study: after, revision } = (await (await page.request.get(`${base}/api/studies/${id}`)).json()) as {
      study: { trials: { results: { white?: number } }[] };
      revision: number;
    };
    expect(after.trials.slice(3, 27).map((t) => t.results.white)).toEqual(
      Array.from({ length: 24 }, (_, i) => 56 + (i + 4) / 10),
    );
    expect(revision).toBe(25);
    await away.close();
  } finally {
    await server.stop("SIGKILL");
  }
});

test("on touch the page brings its own keys: figures go into the field that is filled", async ({
  browser,
  baseURL,
  page,
}) => {
  const id = await importStudy(page, study(6));
  const context = await tabletOf(browser, baseURL);
  const tablet = await context.newPage();
  await tablet.goto(`/studies/${id}/bench`);
  await tablet.locator('[data-ready="yes"]').waitFor();
  const white = tablet.getByLabel("Whiteness", { exact: true });
  await white.tap();
  expect(await white.getAttribute("inputmode")).toBe("none");
  const keys = tablet.getByRole("group", { name: "Keypad" });
  for (const key of ["6", "1", ".", "5", "7"]) await keys.getByRole("button", { name: key, exact: true }).tap();
  await keys.getByRole("button", { name: "Take the last figure away" }).tap();
  await expect(white).toHaveValue("61.5");
  await keys.getByRole("button", { name: "Enter" }).tap();
  // The cursor goes on, and its keys with it.
  await expect(tablet.getByLabel("Grease", { exact: true })).toBeFocused();
  await keys.getByRole("button", { name: "−" }).tap();
  await expect(tablet.getByLabel("Grease", { exact: true })).toHaveValue("-");
  await keys.getByRole("button", { name: "−" }).tap();
  for (const key of ["0", ".", "5"]) await keys.getByRole("button", { name: key, exact: true }).tap();
  await keys.getByRole("button", { name: "Enter" }).tap();
  await expect(tablet.getByRole("status").filter({ hasText: sent.name })).toBeVisible();
  expect((await stored(page, id)).study.trials[3].results).toEqual({ white: 61.5, grease: 0.5 });
  await context.close();
});
