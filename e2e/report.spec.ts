import { axe, expect, openExample, saved, stored, test, visit, WORKED_OUT } from "./help";

test("findings come first, one is struck out and put back, a paragraph of one's own stays; it prints what is left", async ({
  page,
}) => {
  const id = await openExample(page);
  await visit(page, id, "report");
  const report = page.getByTestId("report");
  await expect(report.locator("h2").nth(1)).toHaveText("Findings");
  const finding = report.getByRole("listitem").filter({ hasText: "drive Residual grease" });
  await expect(finding).toBeVisible({ timeout: WORKED_OUT });
  await finding.getByRole("button", { name: "strike out" }).click();
  await saved(page);
  const words = page.getByLabel("A paragraph of your own");
  await words.fill("Heat cleans; entanglement is the price.");
  await words.blur();
  await saved(page);
  const kept = (await stored(page, id)).study as never as { report: { paragraph: string; struck: string[] } };
  expect(kept.report).toEqual({ paragraph: "Heat cleans; entanglement is the price.", struck: ["grease:drivers"] });
  await expect(report.getByText("Heat cleans; entanglement is the price.").first()).toBeVisible();
  expect(await axe(page)).toEqual([]);
  await page.emulateMedia({ media: "print" });
  await expect(finding).toBeHidden();
  await expect(words).toBeHidden();
  await page.emulateMedia({ media: "screen" });
  await finding.getByRole("button", { name: "put back" }).click();
  await page.getByRole("button", { name: /^Undo/ }).click();
  await saved(page);
  await expect(finding.getByRole("button", { name: "put back" })).toBeVisible();
});

test("it opens with a page for whoever decides: set this, expect that, confirmed, and a lot in numbers", async ({
  page,
}) => {
  const id = await openExample(page, "horn-buttons");
  await visit(page, id, "report");
  const report = page.getByTestId("report");
  const short = report.locator("section").filter({ has: page.getByRole("heading", { name: "In short" }) });
  await expect(short).toContainText("Confirmed: 3 trials there agree with what was predicted.");
  await expect(short.getByRole("row", { name: /^Plate temperature/ })).toContainText("159 °C ± 1");
  // Shares in per cent, never logits or fractions.
  await expect(short.getByRole("row", { name: /^Cracked/ })).toContainText(/2\.7\d %.*6 % to 1 %/);
  await expect(short).toContainText(/Cracked in a lot of 200 pieces: 5\.\d expected/);
  await expect(short).toContainText("Hold tight: Horn moisture");
  // What was counted stands as it was counted.
  await expect(report.getByRole("cell", { name: "12 of 200" }).first()).toBeVisible();
});

test("every chosen model prints its analysis of variance, equation and contours; sections can be left out", async ({
  page,
}) => {
  const id = await openExample(page);
  await visit(page, id, "report");
  const report = page.getByTestId("report");
  await expect(report.getByRole("columnheader", { name: "Sum of squares" })).toHaveCount(4);
  await expect(report.getByRole("application", { name: /Residual grease over/ })).toBeVisible();
  await page.getByRole("checkbox", { name: "Models" }).uncheck();
  await expect(report.getByRole("columnheader", { name: "Sum of squares" })).toHaveCount(0);
});
