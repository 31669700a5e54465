import { strFromU8, strToU8, unzipSync, zipSync } from "fflate";
import type { Row, SheetData } from "write-excel-file/universal";
import { fittingOf, storedModel } from "../model/data";
import { fitModel } from "../model/fit";
import { StudyError } from "../study/error";
import { heldAt, isActive } from "../study/roles";
import type { Response, Study } from "../study/schema";
import { alphabetOf, termName } from "../terms/term";
import { figure } from "../words/numbers";
import { ledgerTable } from "./csv";

type Cell = string | number | null;
interface OutSheet {
  sheet: string;
  data: SheetData;
  stickyRowsCount: number;
  stickyColumnsCount?: number;
  columns: { width: number }[];
}

/** Narrowest and widest column, in characters. */
const WIDTHS = [8, 40] as const;
/** Most characters of a sheet's name, and those that it may not hold (ECMA-376). */
const MOST_NAME = 31;
const NO_NAME = /[[\]:*?/\\]/g;

const headed = (name: string, unit: string | undefined): string => (unit ? `${name} [${unit}]` : name);

/** A sheet of rows below a heading that stays in sight. */
function sheetOf(sheet: string, heading: readonly string[], rows: readonly (readonly Cell[])[], fixed = 1): OutSheet {
  const widths = heading.map((h, i) =>
    Math.min(
      WIDTHS[1],
      Math.max(WIDTHS[0], h.length + 2, ...rows.slice(0, 200).map((r) => String(r[i] ?? "").length + 2)),
    ),
  );
  const bold: Row = heading.map((value) => ({ value, fontWeight: "bold" }));
  return {
    sheet,
    data: [bold, ...rows.map((r): Row => [...r])],
    stickyRowsCount: 1,
    stickyColumnsCount: fixed,
    columns: widths.map((width) => ({ width })),
  };
}

/** What is set and what is measured, as it was asked. */
function questionSheet(study: Study): OutSheet {
  const rows: Cell[][] = [
    ...study.factors.map((f): Cell[] => [
      "factor",
      f.id,
      headed(f.name, "unit" in f ? f.unit : undefined),
      f.kind === "continuous" ? f.low : f.kind === "discrete" ? f.values.join(", ") : f.levels.join(", "),
      f.kind === "continuous" ? f.high : null,
      isActive(f) ? null : `held at ${heldAt(f)}`,
    ]),
    ...study.covariates.map((c): Cell[] => ["covariate", c.id, headed(c.name, c.unit), null, null, null]),
    ...study.responses.map((r): Cell[] => [
      "response",
      r.id,
      headed(r.name, r.unit),
      "low" in r.goal ? r.goal.low : null,
      "high" in r.goal ? r.goal.high : null,
      r.goal.aim,
    ]),
  ];
  return sheetOf("Question", ["what", "id", "name", "from, or levels", "to", "aim"], rows, 3);
}

const plansSheet = (study: Study): OutSheet =>
  sheetOf(
    "Plans",
    ["wave", "name", "family", "trials", "run", "purpose"],
    study.waves.map((w): Cell[] => {
      const trials = study.trials.filter((t) => t.wave === w.id);
      return [w.id, w.name, w.plan.family, trials.length, trials.filter((t) => t.state === "done").length, w.purpose];
    }),
  );

/** The ledger, its columns named for people in the first row and for an import in the second, which is hidden. */
function ledgerSheet(study: Study): OutSheet {
  const { columns, rows } = ledgerTable(study);
  return sheetOf(
    "Ledger",
    columns.map((c) => headed(c.name, c.unit)),
    [columns.map((c) => c.id), ...rows],
  );
}

/** The coefficients of a response's stored model; undefined where there is none or it cannot be fitted. */
function modelSheet(study: Study, response: Response, taken: Set<string>): OutSheet | undefined {
  const stored = storedModel(study, response.id);
  if (!stored) return undefined;
  try {
    const fit = fitModel(study, response.id, { terms: stored.terms, ...fittingOf(stored) });
    const alphabet = alphabetOf(study);
    const rows = fit.parameters.map((p): Cell[] => [
      p.term.length === 0 ? "constant" : `${termName(alphabet, p.term)}${p.level === undefined ? "" : ` ${p.level}`}`,
      p.coefficient,
      p.effect ?? null,
      p.standardError,
      p.t,
      p.p,
      ...(p.interval ?? [null, null]),
    ]);
    const { setups } = fit.model;
    if (setups) {
      rows.push(["variance within set-ups", setups.within]);
      rows.push([
        setups.assumed === undefined
          ? "variance between set-ups"
          : `variance between set-ups, assumed ${figure(setups.assumed)} times that within`,
        setups.between,
      ]);
    }
    const plain = response.name.replace(NO_NAME, " ").trim().slice(0, MOST_NAME) || response.id;
    let sheet = plain;
    for (let n = 2; taken.has(sheet.toLowerCase()); n++) sheet = `${plain.slice(0, MOST_NAME - 4)} (${n})`;
    taken.add(sheet.toLowerCase());
    return sheetOf(sheet, ["term", "coefficient", "effect", "standard error", "t", "p", "from", "to"], rows);
  } catch (error) {
    // A model that the results do not carry yet has no figures.
    if (error instanceof StudyError) return undefined;
    throw error;
  }
}

/** Hides the second row of the ledger: the ids of its columns are for an import. */
function withHiddenIds(bytes: Uint8Array, sheet: number): Uint8Array {
  const parts = unzipSync(bytes);
  const path = `xl/worksheets/sheet${sheet}.xml`;
  parts[path] = strToU8(strFromU8(parts[path]).replace(/<row r="2"/, '<row r="2" hidden="1"'));
  return zipSync(parts);
}

/**
 * The whole study as a workbook (ECMA-376): question, plans, ledger and a sheet for each stored model; numbers as
 * numbers at full precision, units in headings that stay in sight. Its ledger is read back by an import.
 */
export async function writeWorkbook(study: Study): Promise<Uint8Array> {
  const taken = new Set(["question", "plans", "ledger"]);
  const sheets = [
    questionSheet(study),
    plansSheet(study),
    ledgerSheet(study),
    ...study.responses.flatMap((r) => modelSheet(study, r, taken) ?? []),
  ];
  const { default: write } = await import("write-excel-file/universal");
  const blob = await write(sheets).toBlob();
  return withHiddenIds(new Uint8Array(await blob.arrayBuffer()), 3);
}
