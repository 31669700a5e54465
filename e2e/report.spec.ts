import { axe, expect, openExample, saved, stored, test, visit, WORKED_OUT } from "./help";

test("findings come first, one is struck out and put back, a paragraph of one's own stays; it prints what is left", async ({
  page,
}) => {
  const id = await openExample(page);
  await visit(page, id, "report");
  const report = page.getByTestId("report");
  await expect(report.locator("h2").first()).toHaveText("Findings");
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
