// What a kind says of the control that asks for it is drawn by bench and ledger: here one that no station has heard of.

import { createElement } from "react";
import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, it, vi } from "vitest";

vi.mock(import("@/core/kinds/results"), async (original) => {
  const { RESULT_KINDS: known, kindAmong, ...rest } = await original();
  const { gap } = await import("@/core/testing/toy-kind");
  const RESULT_KINDS = [...known, gap];
  return { ...rest, kindAmong, RESULT_KINDS, kindOf: kindAmong(RESULT_KINDS) };
});

const { parseStudy } = await import("@/core/study/validate");
const { corners, plainStudy } = await import("@/core/testing/studies");
const { ResultsPanel } = await import("./bench/results-panel");
const { cellShown, columnsOf, unitOf } = await import("./trials/columns");
const { entryOf } = await import("./trials/entry");

const study = parseStudy({
  ...plainStudy(2, {
    responses: [
      { id: "ends", name: "Ends", unit: "mm", measured: "gap" },
      { id: "cracked", name: "Cracked", measured: "share", of: 50 },
      { id: "width", name: "Width", unit: "mm" },
    ],
  }),
  waves: [{ id: "w1" }],
  trials: corners(2).map((settings, i) => ({
    id: `t${i + 1}`,
    wave: "w1",
    settings,
    results: i === 0 ? { ends: [3, 5], cracked: { events: 2, of: 50 }, width: [4, 6] } : {},
  })),
});

describe("a kind that no station has heard of", () => {
  const bench = (trial: number): string =>
    renderToStaticMarkup(
      createElement(ResultsPanel, {
        study,
        likely: {},
        trial: study.trials[trial],
        enter: () => undefined,
        goTo: () => false,
      }),
    );
  it("is drawn on the bench: one field with its example, its steps, what is said of what stands", () => {
    const page = bench(0);
    expect(page).toMatch(/aria-label="Ends"[^>]*value="3\.\.5"/);
    expect(page).toContain('aria-label="Ends wider"');
    expect(page).toContain("2 wide");
    expect(bench(1)).toMatch(/aria-label="Ends"[^>]*placeholder="3\.1\.\.3\.4"/);
  });
  it("stands beside those that are known, each drawn as it says", () => {
    const page = bench(0);
    expect(page).toMatch(/aria-label="Cracked"[^>]*value="2\/50"/);
    expect(page).toContain('aria-label="Not +1: Cracked"');
    expect(page).toContain('aria-label="Width, reading 2"');
  });
  it("is shown and typed in the ledger", () => {
    const column = columnsOf(study).find((c) => c.id === "ends");
    if (!column) throw new Error("no column");
    expect([unitOf(column), cellShown(study.trials[0], column)]).toEqual(["ends, mm", "3..5"]);
    const typed = entryOf(study, study.trials[1], column, "1..2.5");
    expect(typed.ok && typed.edits[0].to).toEqual([1, 2.5]);
    expect(entryOf(study, study.trials[1], column, "1").ok).toBe(false);
  });
});
