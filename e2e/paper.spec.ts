import { execFileSync } from "node:child_process";
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Page } from "@playwright/test";
import { axe, expect, importStudy, openExample, stored, test } from "./help";

interface Printed {
  pages: number;
  /** Width and height of a page, in points. */
  size: [number, number];
  /** Text of each page. */
  text: string[];
}
const folder = mkdtempSync(join(tmpdir(), "trialmoor-paper-"));

/** The page as it prints, read back from its PDF. */
async function printed(page: Page, name: string): Promise<Printed> {
  const file = join(folder, `${name}.pdf`);
  writeFileSync(file, await page.pdf({ preferCSSPageSize: true, printBackground: true }));
  const info = execFileSync("pdfinfo", [file], { encoding: "utf8" });
  const [, pages] = /Pages:\s+(\d+)/.exec(info) ?? [];
  const [, width, height] = /Page size:\s+([\d.]+) x ([\d.]+)/.exec(info) ?? [];
  const text = execFileSync("pdftotext", ["-layout", file, "-"], { encoding: "utf8" }).split("\f").slice(0, -1);
  return { pages: Number(pages), size: [Number(width), Number(height)], text };
}

const many = {
  factors: Array.from({ length: 15 }, (_, i) => ({
    id: `f${i}`,
    name: `Residual moisture of the outermost layer ${i}`,
    unit: "g/kg",
    kind: "continuous",
    low: 10,
    high: 30,
  })),
  responses: [
    { id: "y", name: "Tensile strength of the finished strand", unit: "cN/tex" },
    { id: "z", name: "Yellowness of the surface" },
  ],
  waves: [{ id: "w", name: "Everything of last year" }],
  trials: Array.from({ length: 40 }, (_, i) => ({
    id: `t${i}`,
    wave: "w",
    order: i + 1,
    settings: Object.fromEntries(Array.from({ length: 15 }, (_, j) => [`f${j}`, (i >> (j % 5)) % 2 ? 30 : 10])),
  })),
};

test("run sheets: title, wave and headings on every page, n of m, the order run, no prediction, A4 and Letter", async ({
  page,
}) => {
  const id = await openExample(page);
  const { study } = await stored(page, id);
  await page.goto(`/studies/${id}/paper`);
  expect(await axe(page)).toEqual([]);
  await expect(page.getByRole("combobox", { name: "Wave" })).toBeVisible();
  const waves = study.waves as unknown as { id: string; name: string }[];
  await page.goto(`/studies/${id}/paper?wave=${waves[0].id}`);
  const a4 = await printed(page, "wool-a4");
  // A4 across is 841.89 × 595.28 points, Letter 792 × 612.
  expect(a4.size.map(Math.round)).toEqual([842, 595]);
  for (const [i, text] of a4.text.entries()) {
    expect(text).toContain(`page ${i + 1} of ${a4.pages}`);
    expect(text).toContain(`Fellgate wool scouring line · ${waves[0].name}`);
    for (const head of ["order", "initials", "note", "°C", "Residual"]) expect(text).toContain(head);
  }
  const orders = a4.text.flatMap((t) => [...t.matchAll(/^\s*(\d+)\s+\d/gm)].map((m) => Number(m[1])));
  expect(orders).toEqual([...orders].sort((p, q) => p - q));
  // What came out, stands nowhere.
  const results = study.trials.map((t) => String(t.results.grease));
  for (const r of results) expect(a4.text.join("")).not.toContain(` ${r} `);
  await page.getByText("Letter", { exact: true }).click();
  await page.waitForURL(/size=letter/);
  expect((await printed(page, "wool-letter")).size.map(Math.round)).toEqual([792, 612]);
});

test("fifteen factors with long names fit across the page; settings that change are marked", async ({ page }) => {
  const id = await importStudy(page, { ...many, title: "A line of fifteen settings" });
  await page.goto(`/studies/${id}/paper`);
  const { pages, text } = await printed(page, "many");
  expect(pages).toBeGreaterThan(1);
  for (const t of text) expect(t).toContain("A line of fifteen settings · Everything of last year");
  expect(text.join("\n")).toContain(`page ${pages} of ${pages}`);
  // Nothing stands past the paper: the table is no wider than what is printed of it.
  await page.emulateMedia({ media: "print" });
  await page.setViewportSize({ width: 1031, height: 700 });
  expect(await page.locator(".sheet").evaluate((e) => e.scrollWidth - (e.parentElement?.clientWidth ?? 0))).toBe(0);
  // Trial 2 differs from trial 1 where the lowest bit of its number counts: factors 0, 5 and 10.
  const second = page.locator("tbody tr").nth(1).locator('td[data-changes="yes"]');
  await expect(second).toHaveCount(3);
});

test("cards: four a page, each with a code that opens its trial at the bench", async ({ page }) => {
  const id = await importStudy(page, { ...many, title: "Cards", trials: many.trials.slice(0, 10) });
  await page.goto(`/studies/${id}/paper?as=cards`);
  expect(await axe(page)).toEqual([]);
  const { pages, text } = await printed(page, "cards");
  expect(pages).toBe(3);
  expect(text[0]).toContain("Trial 1");
  expect(text[0]).toContain("Trial 4");
  expect(text[0]).not.toContain("Trial 5");
  expect(text[2]).toContain("Trial 10");
  await expect(page.getByRole("img", { name: "Trial 3 at the bench" })).toBeVisible();
});
