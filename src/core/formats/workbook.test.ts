import { strToU8, zipSync } from "fflate";
import { describe, expect, it } from "vitest";
import writeXlsx from "write-excel-file/node";
import { StudyError } from "../study/error";
import { parseStudy } from "../study/validate";
import { messageText } from "../words/answers";
import { previewImport } from "./sheet-import";
import { readWorkbook } from "./workbook";

/** A workbook by its parts, as ECMA-376 has them; cells are XML. */
function workbook(sheets: Record<string, string>, more: Record<string, Uint8Array> = {}, state = ""): Uint8Array {
  const names = Object.keys(sheets);
  const of = "http://schemas.openxmlformats.org";
  const head = '<?xml version="1.0" encoding="UTF-8"?>';
  const type = "application/vnd.openxmlformats-officedocument.spreadsheetml";
  return zipSync({
    "[Content_Types].xml": strToU8(
      `${head}<Types xmlns="${of}/package/2006/content-types"><Default Extension="xml" ContentType="application/xml"/><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Override PartName="/xl/workbook.xml" ContentType="${type}.sheet.main+xml"/></Types>`,
    ),
    "_rels/.rels": strToU8(
      `${head}<Relationships xmlns="${of}/package/2006/relationships"><Relationship Id="rId1" Type="${of}/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
    ),
    "xl/workbook.xml": strToU8(
      `${head}<workbook xmlns="${of}/spreadsheetml/2006/main" xmlns:r="${of}/officeDocument/2006/relationships"><sheets>${names
        .map((n, i) => `<sheet name="${n}" sheetId="${i + 1}" r:id="rId${i + 1}"${i === 0 ? state : ""}/>`)
        .join("")}</sheets></workbook>`,
    ),
    "xl/_rels/workbook.xml.rels": strToU8(
      `${head}<Relationships xmlns="${of}/package/2006/relationships">${names
        .map(
          (_, i) =>
            `<Relationship Id="rId${i + 1}" Type="${of}/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet${i + 1}.xml"/>`,
        )
        .join("")}</Relationships>`,
    ),
    ...Object.fromEntries(
      names.map((n, i) => [
        `xl/worksheets/sheet${i + 1}.xml`,
        strToU8(`${head}<worksheet xmlns="${of}/spreadsheetml/2006/main">${sheets[n]}</worksheet>`),
      ]),
    ),
    ...more,
  });
}
const words = (at: string, text: string): string => `<c r="${at}" t="inlineStr"><is><t>${text}</t></is></c>`;
const number = (at: string, v: number | string): string => `<c r="${at}"><v>${v}</v></c>`;
const row = (n: number, ...cells: string[]): string => `<row r="${n}">${cells.join("")}</row>`;
const HEADINGS = row(1, words("A1", "order"), words("B1", "Grease (%)"));
const said = async (bytes: Uint8Array): Promise<string[]> =>
  (await readWorkbook(bytes)).remarks.map((r) => messageText("workbooks", r));
const refused = async (bytes: Uint8Array, sheet?: string): Promise<string> => {
  const error: unknown = await readWorkbook(bytes, sheet).catch((e: unknown) => e);
  if (error instanceof StudyError) return error.code;
  throw new Error(`not refused: ${String(error)}`);
};

describe("a workbook", () => {
  it("written by another library is read whole: numbers to the last digit, text as it is, days as year-month-day", async () => {
    const third = 0.1 + 0.2;
    const bytes = await writeXlsx([
      ["order", "Grease [%]", "note", "day", "dry"],
      [
        1,
        third,
        'said "wet";\nthen dry',
        { value: new Date(Date.UTC(2026, 10, 26)), type: Date, format: "dd/mm/yyyy" },
        true,
      ],
      [2, -1.5e-7, "0,5", null, false],
    ]).toBuffer();
    const { text, sheet, remarks } = await readWorkbook(new Uint8Array(bytes));
    expect(sheet).toBe("Sheet1");
    expect(text.split("\n")[0]).toBe("order\tGrease [%]\tnote\tday\tdry");
    expect(text).toContain(`1\t${third}\t`);
    expect(text).toContain('"said ""wet"";\nthen dry"\t2026-11-26\tTRUE');
    expect(text).toContain("2\t-1.5e-7\t0,5\t\tFALSE");
    expect(remarks.map((r) => r.code)).toEqual(["book-dates"]);
    const study = parseStudy({
      format: "trialmoor-study",
      version: 1,
      title: "t",
      factors: [{ id: "f", kind: "continuous", low: 0, high: 1 }],
      responses: [{ id: "grease", name: "Grease" }],
      waves: [{ id: "w" }],
      trials: [1, 2].map((order) => ({ id: `t${order}`, wave: "w", order, settings: { f: 0 } })),
    });
    expect(previewImport(study, text).values.map((v) => v.after)).toEqual([third, -1.5e-7]);
  });

  it("gives the sheet that is asked for, else our ledger, else the first that holds rows; hidden ones are left alone", async () => {
    const sheet = (v: number): string =>
      `<sheetData>${HEADINGS}${row(2, number("A2", 1), number("B2", v))}</sheetData>`;
    const empty = "<sheetData/>";
    const three = workbook({ Cover: empty, Data: sheet(5), Ledger: sheet(7) });
    expect((await readWorkbook(three)).text).toContain("1\t7");
    expect((await readWorkbook(three, "Data")).text).toContain("1\t5");
    expect((await readWorkbook(workbook({ Cover: empty, "A &amp; B": sheet(5) }))).sheet).toBe("A & B");
    expect(await said(three)).toEqual(["Read: the sheet “Ledger”; beside it are “Cover”, “Data”."]);
    expect(await refused(three, "None")).toBe("no-sheet");
    const hidden = workbook({ Secret: sheet(5), Data: sheet(7) }, {}, ' state="hidden"');
    expect(await readWorkbook(hidden)).toMatchObject({ sheets: ["Data"], sheet: "Data" });
    expect(await refused(workbook({ Cover: empty }))).toBe("empty-sheet");
  });

  it("says what its cells alone do not: merged, hidden, in error, never worked out, a title above, macros", async () => {
    const cells = [
      row(1, words("A1", "Trials of the week")),
      row(2, words("A2", "order"), words("B2", "Grease"), words("C2", "Mean")),
      `<row r="3" hidden="1">${number("A3", 1)}${number("B3", 5)}<c r="C3"><f>B3*2</f><v>10</v></c></row>`,
      row(4, number("A4", 2), '<c r="B4" t="e"><f>1/0</f><v>#DIV/0!</v></c>', '<c r="C4"><f>B4*2</f></c>'),
    ].join("");
    const bytes = workbook(
      {
        S: `<cols><col min="3" max="4" width="9" hidden="1"/></cols><sheetData>${cells}</sheetData><mergeCells count="1"><mergeCell ref="A1:C1"/></mergeCells>`,
      },
      { "xl/vbaProject.bin": new Uint8Array(40) },
    );
    // Formulas give what they were last worked out to.
    expect((await readWorkbook(bytes)).text.split("\n")).toEqual(["order\tGrease\tMean", "1\t5\t10", "2\t\t"]);
    expect(await said(bytes)).toEqual([
      "1 row above the headings was left out.",
      "1 group of merged cells (A1:C1) was read as the first cell, the rest as empty.",
      "2 hidden columns and 1 hidden row were read like the others.",
      "1 cell in error (B4 #DIV/0!) was read as empty.",
      "1 formula (C4) was never worked out and read as empty: open the workbook in a spreadsheet, save it, and bring it again.",
      "The workbook's macros were left alone.",
    ]);
  });

  it("is refused in a sentence where it is none, locked, damaged, or would unpack to more than can be held", async () => {
    expect(await refused(strToU8("order,grease\n1,2"))).toBe("no-workbook");
    expect(await refused(new Uint8Array(0))).toBe("no-workbook");
    expect(await refused(new Uint8Array([0xd0, 0xcf, 0x11, 0xe0, 0xa1, 0xb1, 0x1a, 0xe1]))).toBe("workbook-locked");
    const whole = workbook({ S: `<sheetData>${HEADINGS}</sheetData>` });
    expect(await refused(whole.slice(0, whole.length / 2))).toBe("no-workbook");
    expect(await refused(zipSync({ "readme.txt": strToU8("no workbook") }))).toBe("no-workbook");
    expect(await refused(new Uint8Array(25_000_001))).toBe("workbook-too-large");
    // A part of 101 MB packed in 100 kB, whatever the file says of its size (the local header's own field).
    const parts = { "xl/sharedStrings.xml": new Uint8Array(101_000_000) };
    const bomb = workbook({ S: `<sheetData>${HEADINGS}</sheetData>` }, parts);
    expect(bomb.length).toBeLessThan(200_000);
    expect(await refused(bomb)).toBe("workbook-too-large");
    const bytes = Buffer.from(bomb);
    for (const [head, size] of [
      ["PK\x03\x04", 22],
      ["PK\x01\x02", 24],
    ] as const)
      bytes.writeUInt32LE(9000, bytes.lastIndexOf(Buffer.from(head, "latin1")) + size);
    expect(await refused(bytes)).toBe("workbook-too-large");
  });

  it.each([["ZZZZZZ3"], ["ZZZZZ99999999"], ["XFD1048576"], ["A1048576"], ["A20051"], ["EWW1"]])(
    "a cell at %s is refused before anything is laid out; its place is named",
    async (at) => {
      const far = workbook({ S: `<sheetData>${HEADINGS}${row(3, number(at, 1))}</sheetData>` });
      expect(far.length).toBeLessThan(3000);
      const error: unknown = await readWorkbook(far).catch((e: unknown) => e);
      expect((error as StudyError).code).toBe("sheet-too-far");
      expect((error as StudyError).message).toMatch(
        new RegExp(`The sheet “S” has something at ${at}; .*20,050 rows and 4,000`),
      );
      // On a hidden sheet too: what reads cells lays that out as well.
      const second = { A: `<sheetData>${HEADINGS}${row(2, number("A2", 1), number("B2", 2))}</sheetData>` };
      const hidden = workbook({ ...second, S: `<sheetData>${row(3, number(at, 1))}</sheetData>` });
      expect(await refused(hidden)).toBe("sheet-too-far");
    },
  );
  it("rows and cells without a place are counted; the last that are read may be full", async () => {
    const rows = (n: number): string =>
      `<sheetData>${HEADINGS}${"<row><c><v>1</v></c><c><v>2</v></c></row>".repeat(n - 1)}</sheetData>`;
    expect(await refused(workbook({ S: rows(20_051) }))).toBe("sheet-too-far");
    expect(
      await refused(workbook({ S: `<sheetData><row r="1">${"<c><v>1</v></c>".repeat(4001)}</row></sheetData>` })),
    ).toBe("sheet-too-far");
    // One cell far down and one far right: a rectangle that nobody filled.
    expect(
      await refused(
        workbook({
          S: `<sheetData>${HEADINGS}${row(2, number("EWV2", 1))}${row(20_050, number("A20050", 1))}</sheetData>`,
        }),
      ),
    ).toBe("sheet-too-far");
    const long = `<sheetData>${HEADINGS}${row(20_050, number("A20050", 1), number("J20050", 2))}</sheetData>`;
    expect((await readWorkbook(workbook({ S: long }))).text.split("\n")).toHaveLength(20_050);
  });
});
