import { axe, choose, expect, importStudy, openExample, saved, stored, test, visit, WORKED_OUT } from "./help";

/** y = 50 + 5a + 3b + 4ab by the half with D = ABC of four factors, run twice: whatever is fitted can be read off. */
const four = {
  factors: ["a", "b", "c", "d"].map((id) => ({ id, name: `Factor ${id}`, kind: "continuous", low: -1, high: 1 })),
  responses: [
    { id: "y", name: "Yield", unit: "kg", goal: { aim: "raise", low: 45, high: 60 } },
    { id: "z", name: "Haze", goal: { aim: "lower", low: 0, high: 4 }, importance: 3 },
  ],
  waves: [{ id: "w", name: "First" }],
  trials: Array.from({ length: 16 }, (_, i) => {
    const [a, b, c] = [0, 1, 2].map((j) => (((i % 8) >> j) & 1 ? 1 : -1));
    const noise = i < 8 ? 0.2 : -0.2;
    return {
      id: `t${i + 1}`,
      wave: "w",
      state: "done",
      settings: { a, b, c, d: a * b * c },
      results: { y: 50 + 5 * a + 3 * b + 4 * a * b + noise, z: 2 + 0.5 * a + noise / 10 },
    };
  }),
};

test("a model on screen is accepted as it stands, or taken otherwise; a term without a rung comes in by its letters", async ({
  page,
}) => {
  const id = await importStudy(page, four);
  await visit(page, id, "model");
  // Of the four main effects and the three pairs that the half can tell apart.
  await expect(page.getByText("Offered, not chosen yet: of 7 terms asked 3 are kept, by p 0.15.")).toBeVisible();
  await page.getByRole("button", { name: "Accept this model" }).click();
  await saved(page);
  expect((await stored(page, id)).study.models?.[0]).toMatchObject({ terms: [["a"], ["b"], ["a", "b"]] });
  await expect(page.getByRole("button", { name: "Accept this model" })).toHaveCount(0);
  await page.getByRole("button", { name: /^Undo/ }).click();
  await page.getByRole("button", { name: "Mains only" }).click();
  await saved(page);
  expect((await stored(page, id)).study.models?.[0].terms).toHaveLength(4);
  // What was weighed and left is not asked about again; the offer stays a press away.
  await expect(page.getByRole("button", { name: "Take the offer" })).toBeVisible();
  // Of the half fraction ABC is D: what cannot be told is said, and stays out.
  await page.getByRole("button", { name: "Add a term…" }).click();
  await page.getByRole("combobox", { name: "Term to add" }).fill("abc");
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("status").filter({ hasText: "cannot be estimated" })).toBeVisible();
  expect(await axe(page)).toEqual([]);
});

test("limits of all responses stand over two factors as labelled lines, and say what the probe keeps", async ({
  page,
}) => {
  const id = await importStudy(page, { ...four, models: [{ response: "y", terms: [["a"], ["b"], ["a", "b"]] }] });
  await visit(page, id, "model");
  await page.getByRole("tab", { name: "Limits" }).click();
  // y at the probe, the middle, is 50: above its limit of 45.
  await expect(page.getByTestId("limits-at-probe")).toHaveText("At the probe every limit is kept.");
  await expect(page.locator('[data-limit="Yield ≥ 45"]')).toHaveCount(1);
  const map = page.getByRole("application", { name: /Limits of/ });
  await map.focus();
  for (let i = 0; i < 50; i++) await map.press("ArrowLeft");
  for (let i = 0; i < 50; i++) await map.press("ArrowUp");
  // At a = −1, b = 1: 50 − 5 + 3 − 4 = 44.
  await expect(page.getByTestId("limits-at-probe")).toContainText("not kept: Yield ≥ 45");
  expect(await axe(page)).toEqual([]);
});

test("two models stand side by side: other terms, another scale, a factor as categories", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "model");
  await page.getByRole("tab", { name: "Beside" }).click();
  const table = page.getByTestId("beside");
  await expect(table.getByRole("columnheader", { name: "main effects" })).toBeVisible();
  // By main effects alone the interaction has no coefficient.
  await expect(table.getByRole("row", { name: /^Bowl temperature × Detergent/ })).toContainText("·");
  await choose(page, "Other model", "categories temp");
  await expect(table.getByRole("row", { name: /^Bowl temperature \[/ }).first()).toBeVisible();
  await choose(page, "Other model", "scale log");
  await expect(page.getByText("The two stand on different scales")).toBeVisible();
  expect(await axe(page)).toEqual([]);
  await page.getByRole("button", { name: "Use it" }).click();
  await saved(page);
  expect((await stored(page, id)).study.models?.find((m) => m.response === "grease")).toMatchObject({
    transform: "log",
  });
});

test("factors are weighed over all responses; the quiet are retired in one step, the rest carried on in a plan asked for", async ({
  page,
}) => {
  const id = await importStudy(page, {
    ...four,
    models: [
      { response: "y", terms: [["a"], ["b"], ["a", "b"]] },
      { response: "z", terms: [["a"]] },
    ],
  });
  await visit(page, id, "model");
  await page.getByRole("button", { name: "All responses" }).click();
  const table = page.getByTestId("influence");
  // Over even spreads on −1 … 1 the variances of 5a, 3b and 4ab are 25/3, 3 and 16/9; a takes the first and last. Haze
  // counts three times as much and is all a's: (0.771 + 3 · 1) / 4 and (0.364 + 0) / 4.
  // As shares of their sum: 0.943 and 0.091 of 1.034.
  await expect(table.getByRole("row", { name: /^Factor a/ })).toContainText("91 %");
  await expect(table.getByRole("row", { name: /^Factor b/ })).toContainText("9 %");
  // By haze a is all; by yield b comes second, too.
  const rows = table.locator("tbody tr");
  await table.getByRole("button", { name: /Haze/ }).click();
  await expect(table.getByRole("columnheader", { name: /Haze/ })).toHaveAttribute("aria-sort", "descending");
  await expect(rows.first()).toContainText("Factor a");
  await table.getByRole("button", { name: /Weighted/ }).click();
  // More are kept, then two again; the others held at values of one's choice.
  await page.getByRole("spinbutton", { name: "Factors to keep" }).fill("3");
  await expect(page.getByRole("button", { name: "Retire the other 1, carry the 3 on" })).toBeVisible();
  await page.getByRole("spinbutton", { name: "Factors to keep" }).fill("2");
  await page.getByRole("spinbutton", { name: "Factor c held at" }).fill("0.5");
  await page.getByRole("spinbutton", { name: "Factor c held at" }).press("Enter");
  expect(await axe(page)).toEqual([]);
  await page.getByRole("button", { name: "Retire the other 2, carry the 2 on" }).click();
  await page.waitForURL(/plan$/);
  const row = page.locator('[data-follow="carry"]');
  await expect(row).toContainText("Asked for: Factor a and Factor b");
  await choose(page, "Carried on in", "factorial");
  await expect(row).toContainText("full factorial", { ignoreCase: true, timeout: WORKED_OUT });
  expect(await axe(page)).toEqual([]);
  await saved(page);
  const { factors } = (await stored(page, id)).study as unknown as { factors: { id: string; retired?: number }[] };
  expect(factors.map((f) => f.retired)).toEqual([undefined, undefined, 0.5, 0]);
  await page.keyboard.press("Control+z");
  await saved(page);
});
