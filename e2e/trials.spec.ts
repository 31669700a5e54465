import { readFileSync } from "node:fs";
import type { Page } from "@playwright/test";
import writeXlsx from "write-excel-file/node";
import { axe, expect, importStudy, press, saved, stored, test, visit, WORKED_OUT } from "./help";

const planned = {
  factors: [
    { id: "heat", name: "Heat", kind: "continuous", low: 10, high: 20, step: 1 },
    { id: "lot", name: "Lot", kind: "categorical", levels: ["old", "new"] },
  ],
  responses: [
    { id: "y", name: "Yield", unit: "%" },
    { id: "z", name: "Haze" },
  ],
  waves: [{ id: "w1", plan: { family: "factorial", seed: 3 } }],
  trials: [
    { id: "t1", wave: "w1", standard: 3, order: 1, settings: { heat: 10, lot: "new" } },
    { id: "t2", wave: "w1", standard: 1, order: 2, settings: { heat: 10, lot: "old" } },
    { id: "t3", wave: "w1", standard: 4, order: 3, settings: { heat: 20, lot: "new" } },
    { id: "t4", wave: "w1", standard: 2, order: 4, settings: { heat: 20, lot: "old" } },
  ],
};

test("several values of one trial: asked once what they are, and answered in one press", async ({ page }) => {
  const id = await importStudy(page, planned);
  await visit(page, id, "trials");
  await page.getByTestId("ledger").focus();
  await page.keyboard.type("60 61 62");
  await page.keyboard.press("Enter");
  const asked = page.locator('[data-reading="several-y"]');
  await expect(asked).toContainText("1 trial holds several values of Yield. What are they", { timeout: WORKED_OUT });
  await expect(asked.getByRole("button", { name: "Measured again" })).toBeVisible();
  await asked.getByRole("button", { name: "Pieces made" }).click();
  await expect(asked).toHaveCount(0);
  await saved(page);
  expect((await stored(page, id)).study.responses[0]).toMatchObject({ id: "y", several: "units" });
});

test("by keyboard alone: results, repeats, as-run settings, clearing", async ({ page }) => {
  const id = await importStudy(page, planned);
  await visit(page, id, "trials");
  await page.getByTestId("ledger").focus();
  await page.keyboard.type("61.5");
  await page.keyboard.press("Enter");
  await page.keyboard.type("62,5");
  await page.keyboard.press("Enter");
  await page.keyboard.type("60 61 62");
  await page.keyboard.press("Tab");
  await page.keyboard.type("7");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Home");
  await page.keyboard.type("20.4");
  await page.keyboard.press("Enter");
  await saved(page);
  const { study } = await stored(page, id);
  expect(study.trials.map((t) => t.results.y)).toEqual([61.5, 62.5, [60, 61, 62], undefined]);
  expect(study.trials[2].results.z).toBe(7);
  expect(study.trials[3].asRun).toEqual({ heat: 20.4 });
  expect(study.trials.map((t) => t.state)).toEqual(["done", "done", "done", "planned"]);
  await expect(page.locator('[data-trial="4"]')).toContainText("20.420");
});

test("standard order shows the same trials and never changes the stored order", async ({ page }) => {
  const id = await importStudy(page, planned);
  await visit(page, id, "trials");
  await press(page, "Order of the ledger", "standard");
  const shown = await page
    .getByTestId("ledger")
    .locator("[data-trial]")
    .evaluateAll((rows) => rows.map((r) => (r as HTMLElement).dataset.trial));
  expect(shown).toEqual(["2", "4", "1", "3"]);
  await page.getByTestId("ledger").focus();
  await page.keyboard.type("5");
  await page.keyboard.press("Enter");
  await saved(page);
  const { study } = await stored(page, id);
  expect(study.trials.find((t) => t.order === 2)?.results.y).toBe(5);
  expect(study.trials.map((t) => t.order)).toEqual([1, 2, 3, 4]);
});

test("a sheet in another order is matched by settings, previewed, then taken", async ({ page }) => {
  const id = await importStudy(page, planned);
  await visit(page, id, "trials");
  await page.getByRole("button", { name: "Paste or import" }).click();
  await page
    .getByLabel("Text to import")
    .fill("Heat;Lot;Yield (%);Operator\n20;old;44,5;ann\n10;old;41;bob\n20;new;oops;cy\n15;new;40;di");
  const dialog = page.getByRole("dialog");
  await expect(dialog).toContainText("3 rows matched by settings; left aside: Operator; decimal comma read");
  await expect(dialog).toContainText("“oops” in Yield is not a number");
  await expect(dialog).toContainText("no trial with these settings");
  await dialog.getByRole("button", { name: "Take 2 values" }).click();
  await saved(page);
  const { study } = await stored(page, id);
  expect(study.trials.map((t) => t.results.y ?? null)).toEqual([null, 41, null, 44.5]);
});

test("what was really set comes in from a sheet, is shown first, and is marked in the ledger", async ({ page }) => {
  const id = await importStudy(page, planned);
  await visit(page, id, "trials");
  await page.getByRole("button", { name: "Paste or import" }).click();
  await page.getByLabel("Text to import").fill("order,Heat (as run),Yield (%)\n1,10.4,41\n2,10,\n3,hot,44\n");
  const dialog = page.getByRole("dialog");
  await expect(dialog.getByRole("row", { name: /Heat, as run/ })).toContainText("10.4");
  await expect(dialog).toContainText("“hot” is not a setting of Heat; that cell is left as it was");
  await dialog.getByRole("button", { name: "Take 3 values" }).click();
  await saved(page);
  const trials = (await stored(page, id)).study.trials.sort((a, b) => a.order - b.order);
  expect(trials.slice(0, 3).map((t) => [t.asRun ?? null, t.results.y ?? null])).toEqual([
    [{ heat: 10.4 }, 41],
    [null, null],
    [null, 44],
  ]);
  await page.getByRole("button", { name: /^Undo/ }).click();
  await saved(page);
  expect(
    (await stored(page, id)).study.trials.every((t) => t.asRun === undefined && (t.results.y ?? null) === null),
  ).toBe(true);
});

test("a block without headings says where it will go before it is taken; undo takes it back", async ({ page }) => {
  const id = await importStudy(page, planned);
  await visit(page, id, "trials");
  await page.getByTestId("ledger").evaluate((el) => {
    const data = new DataTransfer();
    data.setData("text", "1\t5\n2\t6\n3\t7");
    el.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
  });
  await expect(page.getByRole("dialog")).toContainText("trials 1 to 3");
  await page.getByRole("button", { name: "Take 6 values" }).click();
  await saved(page);
  expect((await stored(page, id)).study.trials.map((t) => t.results.z ?? null)).toEqual([5, 6, 7, null]);
  await page.getByRole("button", { name: /^Undo/ }).click();
  await saved(page);
  expect((await stored(page, id)).study.trials.map((t) => t.results.y ?? null)).toEqual([null, null, null, null]);
});

test("a trial is skipped, failed and left out by its menu; CSV holds the ledger", async ({ page }) => {
  const id = await importStudy(page, planned);
  await visit(page, id, "trials");
  await page.getByLabel("Menu of trial 2").click();
  await page.getByRole("menuitem", { name: "Skip it" }).click();
  await page.getByLabel("Menu of trial 3").click();
  await page.getByRole("menuitem", { name: "Leave out of models" }).click();
  await page.getByLabel("Reason").fill("valve stuck half open");
  await page.getByRole("button", { name: "Leave it out" }).click();
  await saved(page);
  const { study } = await stored(page, id);
  expect([study.trials[1].state, study.trials[2].use]).toEqual(["skipped", false]);
  const csv = await (await page.request.get(`/api/studies/${id}/export?format=csv`)).text();
  expect(csv.split("\r\n").slice(0, 3)).toEqual([
    "order,standard,wave,kind,state,heat,lot,y,z,note,trial id",
    "1,3,w1,other,planned,10,new,,,,t1",
    "2,1,w1,other,skipped,10,old,,,,t2",
  ]);
  expect((study.trials[2] as unknown as { why: string }).why).toBe("valve stuck half open");
  await page.getByLabel("Menu of trial 3").click();
  await page.getByRole("menuitem", { name: "Use in models again" }).click();
  await saved(page);
  expect((await stored(page, id)).study.trials[2].use).toBe(true);
});

test("a thousand trials scroll without blank rows", async ({ page }) => {
  const trials = Array.from({ length: 1000 }, (_, i) => ({
    id: `t${i + 1}`,
    wave: "w1",
    state: "done",
    settings: { heat: i % 2 ? 10 : 20, lot: i % 4 < 2 ? "old" : "new" },
    results: { y: 50 + (i % 7) },
  }));
  const id = await importStudy(page, { ...planned, trials });
  await visit(page, id, "trials");
  const ledger = page.getByTestId("ledger");
  for (const share of [0.25, 0.5, 1]) {
    await ledger.evaluate((el, s) => el.scrollTo(0, s * el.scrollHeight), share);
    await expect(async () => {
      const visible = await ledger.evaluate((el) => {
        const box = el.getBoundingClientRect();
        return [...el.querySelectorAll("[data-trial]")].filter(
          (r) => r.getBoundingClientRect().bottom > box.top + 60 && r.getBoundingClientRect().top < box.bottom,
        ).length;
      });
      expect(visible).toBeGreaterThan(12);
    }).toPass();
  }
  await expect(page.locator('[data-trial="1000"]')).toBeVisible();
});

test("columns of one response are its repeats, and it is said; two notes are refused, what was pasted stays", async ({
  page,
}) => {
  const id = await importStudy(page, planned);
  await visit(page, id, "trials");
  await page.getByRole("button", { name: /Paste or import/ }).click();
  const box = page.getByLabel("Text to import");
  const dialog = page.getByRole("dialog");
  await box.fill("order\tnote\ty\tnote\n1\ta\t40\tb\n");
  await expect(dialog.getByRole("alert")).toContainText("stands twice (columns 2 and 4)");
  await expect(box).toHaveValue("order\tnote\ty\tnote\n1\ta\t40\tb\n");
  await box.fill("order\tYield\tYield\tYield 3 (%)\twho\n1\t40\t42\t41\tA\n2\t400 420\t\t\t\n");
  await expect(dialog).toContainText("3 columns read as repeats of Yield.");
  await expect(dialog).toContainText("left aside: who");
  await expect(dialog).toContainText("“400 420” in Yield may be one number or several");
  await page.getByRole("button", { name: "Take 1 value" }).click();
  await saved(page);
  expect((await stored(page, id)).study.trials.find((t) => t.order === 1)?.results.y).toEqual([40, 42, 41]);
});

test("several rows of one trial are asked about: left out, or its repeats; over HTTP too", async ({ page }) => {
  const id = await importStudy(page, planned);
  await visit(page, id, "trials");
  await page.getByRole("button", { name: /Paste or import/ }).click();
  const dialog = page.getByRole("dialog");
  const long = "trial;Yield\n1;40,1\n1;40,3\n2;38\n1;40,2\n";
  await page.getByLabel("Text to import").fill(long);
  await expect(dialog).toContainText("trial 1 stands in the sheet twice; the second row is left out");
  const ask = dialog.getByRole("checkbox", { name: "2 rows are of a trial that stood in an earlier row" });
  await ask.check();
  await expect(dialog).not.toContainText("left out");
  expect(await axe(page)).toEqual([]);
  await page.getByRole("button", { name: "Take 2 values" }).click();
  await saved(page);
  const results = (await stored(page, id)).study.trials.map((t) => t.results.y);
  expect(results.slice(0, 2)).toEqual([[40.1, 40.3, 40.2], 38]);
  const asked = async (query: string): Promise<Record<string, unknown>> =>
    (await (
      await page.request.post(`/api/studies/${id}/import?dry=1${query}`, {
        data: long.replaceAll("40", "50"),
        headers: { "content-type": "text/csv" },
      })
    ).json()) as Record<string, unknown>;
  expect(await asked("")).toMatchObject({ again: 2, changes: [{ to: 50.1 }] });
  expect(await asked("&rows=repeats")).toMatchObject({ again: 2, problems: [], changes: [{ to: [50.1, 50.3, 50.2] }] });
});

test("a workbook is read beside the page, its oddities are said, and its results taken; over HTTP the same", async ({
  page,
  allowed,
}) => {
  allowed.statuses = [422];
  const id = await importStudy(page, planned);
  await visit(page, id, "trials");
  await page.getByRole("button", { name: /Paste or import/ }).click();
  const dialog = page.getByRole("dialog");
  const book = await writeXlsx(
    [["Week 9"], ["trial", "Yield (%)", "Yield (%)", "by"], [1, 40.25, 40.5, "A"], [2, 38.125, null, "B"]],
    {},
  ).toBuffer();
  const choose = (name: string, buffer: Buffer): Promise<void> =>
    dialog.locator("input[type=file]").setInputFiles({ name, mimeType: "application/octet-stream", buffer });
  await choose("old.xls", Buffer.from([0xd0, 0xcf, 0x11, 0xe0, 0, 0, 0, 0]));
  await expect(dialog.getByRole("alert")).toContainText("old.xls: This workbook is of an older kind than xlsx");
  await choose("week.xlsx", book);
  await expect(dialog).toContainText("1 row above the headings was left out.");
  await expect(dialog).toContainText("2 columns read as repeats of Yield.");
  await page.getByRole("button", { name: "Take 2 values" }).click();
  await saved(page);
  const results = (await stored(page, id)).study.trials.map((t) => t.results.y);
  expect(results.slice(0, 2)).toEqual([[40.25, 40.5], 38.125]);
  const type = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet";
  // The study as a workbook, brought back untouched, changes nothing.
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    (async () => {
      await page.getByRole("button", { name: "Export" }).click();
      await page.getByRole("link", { name: /workbook/ }).click();
    })(),
  ]);
  expect(download.suggestedFilename()).toBe("test.xlsx");
  const same = await page.request.post(`/api/studies/${id}/import?dry=1`, {
    data: readFileSync(await download.path()),
    headers: { "content-type": type },
  });
  expect(await same.json()).toMatchObject({ changes: [], problems: [] });
  const asked = await page.request.post(`/api/studies/${id}/import?dry=1`, {
    data: await writeXlsx([
      ["trial", "Haze"],
      [3, 1.5],
    ]).toBuffer(),
    headers: { "content-type": type },
  });
  expect(await asked.json()).toMatchObject({ changes: [{ trial: "t3", response: "z", to: 1.5 }], remarks: [] });
  const none = await page.request.post(`/api/studies/${id}/import?dry=1`, {
    data: Buffer.from("no workbook"),
    headers: { "content-type": type },
  });
  expect([none.status(), ((await none.json()) as { code: string }).code]).toEqual([422, "no-workbook"]);
});

test("ten thousand rows: a sheet of text and a workbook are looked at, one after the other", async ({ page }) => {
  const rows = 10_000;
  const id = await importStudy(page, {
    ...planned,
    trials: Array.from({ length: rows }, (_, i) => ({
      id: `t${i + 1}`,
      wave: "w1",
      order: i + 1,
      settings: { heat: 10, lot: i % 2 ? "old" : "new" },
    })),
  });
  await visit(page, id, "trials");
  await page.getByRole("button", { name: /Paste or import/ }).click();
  const dialog = page.getByRole("dialog");
  const table = [["trial", "Yield", "Haze"], ...Array.from({ length: rows }, (_, i) => [i + 1, 40 + i / 1000, i / 7])];
  const bring = async (name: string, buffer: Buffer): Promise<void> => {
    await dialog.locator("input[type=file]").setInputFiles({ name, mimeType: "application/octet-stream", buffer });
    await expect(dialog).toContainText("10000 rows matched", { timeout: WORKED_OUT });
  };
  await bring("big.csv", Buffer.from(table.map((r) => r.join(",")).join("\n")));
  await page.getByLabel("Text to import").fill("");
  await expect(dialog).not.toContainText("rows matched");
  await bring("big.xlsx", await writeXlsx(table).toBuffer());
});

/** Pastes text into the ledger where its cursor stands. */
const pasteInto = (page: Page, text: string): Promise<void> =>
  page.getByTestId("ledger").evaluate((el, t) => {
    const data = new DataTransfer();
    data.setData("text", t);
    el.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
  }, text);

test("a column of 5,000 values goes into one trial, as units; it is shown by number and mean, and comes out again", async ({
  page,
}) => {
  const id = await importStudy(page, planned);
  await visit(page, id, "question");
  await page
    .getByRole("button", { name: /^Open the curve of/ })
    .first()
    .click();
  const several = page.getByRole("combobox", { name: /several values in one trial$/ });
  await several.focus();
  await several.press("ArrowDown");
  await page.locator('.ant-select-dropdown:visible [data-choice="units"]').click();
  await saved(page);
  await visit(page, id, "trials");
  const units = Array.from({ length: 5000 }, (_, i) => (8 + Math.sin(i)).toFixed(4));
  await pasteInto(page, `thickness\n${units.join("\n")}`);
  const dialog = page.getByRole("dialog");
  await expect(dialog).toContainText("5,000 values go to trial 1, as units made");
  await page.getByRole("button", { name: "Take 1 value" }).click();
  await saved(page);
  await expect(page.getByTestId("ledger")).toContainText("5,000 units, mean 8");
  const { study } = await stored(page, id);
  expect(study.trials[0].results.y).toEqual(units.map(Number));
  const csv = await (await page.request.get(`/api/studies/${id}/export?format=csv`)).text();
  expect(csv.split("\r\n")[0]).toContain("y.1,y.2,y.3,y.4,y.5");
  const again = await page.request.post(`/api/studies/${id}/import?dry=1`, {
    data: csv,
    headers: { "content-type": "text/csv" },
  });
  expect((await again.json()).changes).toEqual([]);
  // The bench says how many there are, and gives the other trials a field each.
  await page.goto(`/studies/${id}/bench#trial-1`);
  await expect(page.getByText("5,000 units, entered at the desk")).toBeVisible();
});

test("fewer values than trials go down the trials unless they are meant for one", async ({ page }) => {
  const id = await importStudy(page, planned);
  await visit(page, id, "trials");
  await pasteInto(page, "1.5\n2,5\n3.5");
  const dialog = page.getByRole("dialog");
  await expect(dialog).toContainText("trials 1 to 3");
  await dialog.getByText("All into trial 1", { exact: true }).click();
  await expect(dialog).toContainText("3 values go to trial 1, as repeats of one measurement");
  await page.getByRole("button", { name: "Take 1 value" }).click();
  await saved(page);
  expect((await stored(page, id)).study.trials[0].results.y).toEqual([1.5, 2.5, 3.5]);
});

test("cells are marked by keys and copied, with headings on request, and find their way back", async ({
  page,
  context,
}) => {
  await context.grantPermissions(["clipboard-read", "clipboard-write"]);
  const id = await importStudy(page, {
    ...planned,
    trials: planned.trials.map((t, i) => ({ ...t, state: "done", results: { y: [i + 0.5, i + 0.25], z: 10 * i } })),
  });
  await visit(page, id, "trials");
  const ledger = page.getByTestId("ledger");
  await ledger.focus();
  await page.keyboard.press("Control+Home");
  await page.keyboard.press("Shift+ArrowRight");
  await page.keyboard.press("Shift+ArrowDown");
  await expect(page.getByText("4 cells marked")).toBeVisible();
  await page.getByRole("button", { name: "copy with headings" }).click();
  await expect(page.getByText("Cells copied under their headings")).toBeVisible();
  const copied = await page.evaluate(() => navigator.clipboard.readText());
  expect(copied.split("\n").map((l) => l.split("\t"))).toEqual([
    ["order", expect.stringMatching(/^\w/), expect.stringMatching(/^\w/)],
    ["1", "0.5 0.25", "0"],
    ["2", "1.5 1.25", "10"],
  ]);
  await page.getByRole("button", { name: "copy", exact: true }).click();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe("0.5 0.25\t0\n1.5 1.25\t10");
  // Pasted back with headings it changes nothing; the whole ledger is marked at once.
  await pasteInto(page, copied);
  await expect(page.getByRole("button", { name: "Nothing to take" })).toBeVisible();
  await page.keyboard.press("Escape");
  await ledger.focus();
  await page.keyboard.press("Control+a");
  await expect(page.getByText(/cells marked/)).toBeVisible();
  expect(await axe(page)).toEqual([]);
  await page.keyboard.press("Escape");
  await expect(page.getByText(/cells marked/)).toHaveCount(0);
});

test("a column pasted into an open cell stays values of its own", async ({ page }) => {
  const id = await importStudy(page, planned);
  await visit(page, id, "trials");
  await page.getByTestId("ledger").focus();
  await page.keyboard.press("Enter");
  const cell = page.getByTestId("ledger").getByRole("textbox");
  await cell.evaluate((el) => {
    const data = new DataTransfer();
    data.setData("text", "600\n610\n620");
    el.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
  });
  await expect(cell).toHaveValue("600; 610; 620");
  await cell.press("Enter");
  await saved(page);
  expect((await stored(page, id)).study.trials[0].results.y).toEqual([600, 610, 620]);
});
