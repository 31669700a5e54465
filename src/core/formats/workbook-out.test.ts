import { readFileSync } from "node:fs";
import { strFromU8, unzipSync } from "fflate";
import readXlsx from "read-excel-file/node";
import { describe, expect, it } from "vitest";
import { reviseStudy } from "../study/revise";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { ledgerCsv } from "./csv";
import { importEdits, previewImport } from "./sheet-import";
import { readWorkbook } from "./workbook";
import { writeWorkbook } from "./workbook-out";

const wool = (): Study =>
  parseStudy(JSON.parse(readFileSync("examples/wool-scouring.trialmoor.json", "utf8")) as unknown);
type Cells = (string | number | null)[][];
const sheetsOf = async (bytes: Uint8Array): Promise<Map<string, Cells>> =>
  new Map((await readXlsx(Buffer.from(bytes))).map(({ sheet, data }) => [sheet, data as unknown as Cells]));

describe("a study as a workbook", () => {
  it("has question, plans, ledger and a sheet a model, numbers as numbers, units in headings that stay in sight", async () => {
    const study = wool();
    const bytes = await writeWorkbook(study);
    const sheets = await sheetsOf(bytes);
    expect([...sheets.keys()].slice(0, 4)).toEqual(["Question", "Plans", "Ledger", "Residual grease"]);
    const [heading, ids, first] = sheets.get("Ledger") as Cells;
    expect(heading[5]).toBe("Bowl temperature [°C]");
    expect(ids.slice(0, 6)).toEqual(["order", "standard", "wave", "kind", "state", "temp"]);
    const trial = study.trials.find((t) => t.order === 1);
    expect([first[0], first[5]]).toEqual([1, trial?.settings.temp]);
    expect(first[ids.indexOf("grease")]).toBe(trial?.results.grease);
    const xml = strFromU8(unzipSync(bytes)["xl/worksheets/sheet3.xml"]);
    expect(xml).toMatch(/<row r="2" hidden="1"/);
    expect(xml).toMatch(/<pane\b[^>]*state="frozen"/);
    // A balanced two-level effect is twice its coefficient (Box, Hunter and Hunter 2005, ch. 5).
    const model = sheets.get("Residual grease") as Cells;
    expect(model[0].slice(0, 3)).toEqual(["term", "coefficient", "effect"]);
    const temperature = model.find(([term]) => term === "Bowl temperature");
    expect(temperature?.[2]).toBeCloseTo(2 * Number(temperature?.[1]), 12);
  });

  it("gives its results back where they were changed in it, rows in any order, and nothing else", async () => {
    const study = wool();
    const untouched = await readWorkbook(await writeWorkbook(study));
    expect(untouched.remarks.map((r) => r.code)).toEqual(["book-sheet"]);
    expect(previewImport(study, untouched.text)).toMatchObject({ changes: [], problems: [], by: "trial id" });
    const cleared = reviseStudy(
      study,
      study.trials.map((t) => ({ path: ["trials", t.id, "results", "grease"], from: t.results.grease, to: null })),
    );
    const [head, ...rows] = untouched.text.split("\n");
    const back = previewImport(cleared, [head, ...rows.reverse()].join("\n"));
    expect(back.values).toHaveLength(study.trials.length);
    const restored = reviseStudy(cleared, importEdits(cleared, back));
    expect(restored.trials.map((t) => t.results.grease)).toEqual(study.trials.map((t) => t.results.grease));
  });

  it("keeps text that looks like a formula text, repeats apart, and names that a sheet may not bear", async () => {
    const study = parseStudy({
      format: "trialmoor-study",
      version: 1,
      title: "Odd",
      factors: [{ id: "f", name: "Line", kind: "categorical", levels: ["=1+1", "@b"] }],
      responses: [
        { id: "a", name: "Mass [g] / area: a very long name that goes on" },
        { id: "b", name: "Mass [g] / area: a very long name that goes elsewhere" },
      ],
      waves: [{ id: "w" }],
      trials: ["=1+1", "@b", "=1+1", "@b"].map((f, i) => ({
        id: `t${i}`,
        wave: "w",
        state: "done",
        settings: { f },
        note: "=cmd()",
        results: { a: [i, i + 0.5], b: i },
      })),
      models: ["a", "b"].map((response) => ({ response, terms: [["f"]] })),
    });
    const bytes = await writeWorkbook(study);
    expect(strFromU8(unzipSync(bytes)["xl/worksheets/sheet3.xml"])).not.toContain("<f>");
    const sheets = await sheetsOf(bytes);
    const names = [...sheets.keys()].slice(3);
    expect(names).toHaveLength(2);
    for (const name of names) expect(name).toMatch(/^[^[\]:*?/\\]{1,31}$/);
    const [, ids, first] = sheets.get("Ledger") as Cells;
    expect(ids.filter((id) => String(id).startsWith("a"))).toEqual(["a.1", "a.2"]);
    expect([first[ids.indexOf("f")], first[ids.indexOf("note")]]).toEqual(["=1+1", "=cmd()"]);
    expect(previewImport(study, (await readWorkbook(bytes)).text).changes).toEqual([]);
  });

  it("the largest that is written comes back whole; texts that look like formulas change nothing when it is read", async () => {
    const texts = ["=9", "'=9", "ok;=9", "\uFF1D9", "-cmd", "a, '@b"];
    const study = parseStudy({
      format: "trialmoor-study",
      version: 1,
      title: "Large",
      factors: [
        ...["a", "b", "c"].map((id) => ({ id, kind: "continuous", low: -1, high: 1 })),
        { id: "lot", kind: "categorical", levels: texts },
      ],
      responses: [{ id: "y" }, { id: "z", name: "=z" }],
      waves: [{ id: "w" }],
      trials: Array.from({ length: 20_000 }, (_, i) => ({
        id: `t${i}`,
        wave: "w",
        state: "done",
        note: texts[i % 6],
        settings: { a: Math.sin(i), b: Math.cos(i), c: -1, lot: texts[i % 6] },
        results: { y: i / 7, z: -i },
      })),
    });
    const { text } = await readWorkbook(await writeWorkbook(study));
    expect(previewImport(study, text)).toMatchObject({ changes: [], values: [], problems: [], by: "trial id" });
    expect(previewImport(study, ledgerCsv(study))).toMatchObject({ changes: [], values: [], problems: [] });
  });
});
