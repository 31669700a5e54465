import { describe, expect, it } from "vitest";
import { resultValue } from "../study/measured";
import { reviseStudy } from "../study/revise";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { ledgerCsv, ledgerTable } from "./csv";
import { importEdits, previewImport } from "./sheet-import";
import { readWorkbook } from "./workbook";
import { writeWorkbook } from "./workbook-out";

/** Thicknesses of units as a sorting gauge gives them: i-th of 5,000 is 8 + sin i, to four decimals. */
const units = Array.from({ length: 5000 }, (_, i) => Number((8 + Math.sin(i)).toFixed(4)));
const study = (results: (number | null)[] | number): Study =>
  parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "Units",
    factors: [{ id: "a", kind: "continuous", low: 0, high: 1 }],
    responses: [{ id: "thick", name: "Thickness", unit: "mm", several: "units" }, { id: "y" }],
    waves: [{ id: "w1" }],
    trials: [
      { id: "t1", wave: "w1", settings: { a: 0 }, state: "done", results: { thick: results, y: 1 } },
      { id: "t2", wave: "w1", settings: { a: 1 }, state: "done", results: { thick: 7.5, y: 2 } },
    ],
  });
const emptied = (s: Study): Study => ({ ...s, trials: s.trials.map((t) => ({ ...t, results: {} })) });

describe("up to 5,000 values in a trial", () => {
  it("are taken, averaged and kept in a study file; one more is refused", () => {
    const mean = units.reduce((t, v) => t + v, 0) / 5000;
    expect(resultValue(study(units).trials[0].results.thick, {})).toBeCloseTo(mean, 12);
    expect(() => study([...units, 8])).toThrow(/results.thick/);
    expect(study(units).responses[0].several).toBe("units");
  });
  it("go out and come back: 50 by a column each, more by a thousand to a cell", async () => {
    expect(ledgerTable(study(units.slice(0, 50))).columns.filter((c) => c.id.startsWith("thick"))).toHaveLength(50);
    const columns = ledgerTable(study(units)).columns.map((c) => c.id);
    expect(columns.filter((c) => c.startsWith("thick"))).toEqual([1, 2, 3, 4, 5].map((i) => `thick.${i}`));
    for (const results of [units, units.slice(0, 51), units.slice(0, 2500)]) {
      const whole = study(results);
      const back = (text: string): unknown => {
        const bare = emptied(whole);
        const { trials } = reviseStudy(bare, importEdits(bare, previewImport(bare, text)));
        return trials.map((t) => t.results);
      };
      const expected = [
        { thick: results, y: 1 },
        { thick: 7.5, y: 2 },
      ];
      expect(back(ledgerCsv(whole))).toEqual(expected);
      const { text } = await readWorkbook(await writeWorkbook(whole), undefined);
      expect(back(text)).toEqual(expected);
    }
  });
  it("a value that is missing between others keeps its place", () => {
    const holes = units.slice(0, 60).map((v, i) => (i === 7 || i === 31 ? null : v));
    const whole = study(holes);
    const bare = emptied(whole);
    const { trials } = reviseStudy(bare, importEdits(bare, previewImport(bare, ledgerCsv(whole))));
    expect(trials[0].results.thick).toEqual(holes);
  });
});
