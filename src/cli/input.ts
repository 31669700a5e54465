import { readFileSync, renameSync, writeFileSync } from "node:fs";
import { basename, resolve } from "node:path";
import { messageText } from "@/core/findings";
import {
  parseJson,
  ROLES,
  type Role,
  readStudyFile,
  readWorkbook,
  type StartColumn,
  writeStudyFile,
} from "@/core/formats";
import { checkTerms, readTypedTerm, type Study, StudyError, type Term } from "@/core/study";

/** Paths are relative to where the command was called, not to where npm runs it. */
export const locate = (path: string): string => resolve(process.env.INIT_CWD ?? process.cwd(), path);

export function readText(path: string): string {
  try {
    return readFileSync(path === "-" ? 0 : locate(path), "utf8");
  } catch {
    throw new StudyError("no-file", { file: path }, [path]);
  }
}

/** Files that are workbooks, by their names. */
const WORKBOOK = /\.(xlsx|xlsm|xls)$/i;

/** A sheet as text, with what is odd about the workbook that it stands in. */
export async function readSheetFile(path: string, sheet?: string): Promise<{ text: string; remarks: string[] }> {
  if (!WORKBOOK.test(path)) return { text: readText(path), remarks: [] };
  let bytes: Uint8Array;
  try {
    bytes = readFileSync(locate(path));
  } catch {
    throw new StudyError("no-file", { file: path }, [path]);
  }
  const { text, remarks } = await readWorkbook(bytes, sheet);
  return { text, remarks: remarks.map((r) => messageText("workbooks", r)) };
}

/** The study in a file, or on standard input for `-`. */
export const readStudy = (path: string): Study => readStudyFile(readText(path));

/** What a file holds as JSON, whatever it is. */
export const readJson = (path: string): unknown => parseJson(readText(path), { of: "study-file", name: path });

/** Writes text or bytes to a file, whole or not at all, or for `-` to standard output. */
export function writeOut(content: string | Uint8Array, target: string): void {
  if (target === "-") {
    process.stdout.write(content);
    return;
  }
  const file = locate(target);
  try {
    writeFileSync(`${file}.part`, content);
    renameSync(`${file}.part`, file);
  } catch {
    throw new StudyError("cannot-write", { file: target }, [target]);
  }
}

/** Writes a study to `out`, else in place, else (for `-`) to standard output. */
export const writeStudy = (study: Study, path: string, out: string | undefined): void =>
  writeOut(writeStudyFile(study), out ?? path);

/** Sets of terms that have a name. */
export const TERM_SETS = ["main", "main+2fi", "quadratic"] as const;

/** Terms in letters, as "A,C,AC" or '["A","AC"]'; undefined where they are not written so. */
function lettered(study: Study, text: string): Term[] | undefined {
  let names: unknown = text.split(",");
  if (text.trim().startsWith("[")) {
    names = parseJson(text, { of: "terms", name: "--terms" });
    if (!Array.isArray(names)) return undefined;
  }
  const terms: Term[] = [];
  for (const name of names as unknown[]) {
    // By ids, as files and programs say them, or by letters, as people do.
    const ids = Array.isArray(name) ? name.map(String) : [String(name)];
    if (ids.every((id) => study.factors.some((f) => f.id === id) || study.covariates.some((c) => c.id === id))) {
      terms.push(ids);
      continue;
    }
    const read = readTypedTerm(study, ids.join(""));
    if (!read.ok) return undefined;
    terms.push(read.term);
  }
  return terms;
}

/** Terms in letters, or a file with a JSON array of terms by ids; checked against the study. */
export function readTerms(study: Study, text: string): Term[] {
  const typed = lettered(study, text);
  if (typed) return checkTerms(study, typed);
  let data: unknown;
  try {
    data = parseJson(readText(text), { of: "terms", name: text });
  } catch (error) {
    const readable = (error as StudyError).code !== "no-file";
    throw readable
      ? new StudyError("bad-terms.file", { text }, ["terms"])
      : new StudyError("bad-terms.neither", { text }, ["terms"]);
  }
  if (!Array.isArray(data) || !data.every((t) => Array.isArray(t) && t.every((id) => typeof id === "string")))
    throw new StudyError("bad-terms.file", { text }, ["terms"]);
  return checkTerms(study, data as Term[]);
}

/** Settings given as JSON on the command line. */
export function readSettings(text: string, flag: string): Record<string, number | string> {
  const data = parseJson(text, { of: "settings", name: flag });
  if (
    typeof data !== "object" ||
    data === null ||
    Array.isArray(data) ||
    !Object.values(data).every((v) => typeof v === "number" || typeof v === "string")
  )
    throw new StudyError("bad-settings", { flag }, [flag]);
  return data as Record<string, number | string>;
}

/** What a study made from a sheet is called unless said: the sheet's own name. */
export const titleOf = (path: string): string =>
  path === "-"
    ? "From a sheet"
    : basename(path)
        .replace(/\.[^.]+$/, "")
        .slice(0, 200);

/** What columns of a sheet are, by heading, as a file of JSON says it. */
export function readRoles(path: string): Map<string, Role> {
  const data = readJson(path);
  const roles = new Map<string, Role>();
  if (typeof data !== "object" || data === null || Array.isArray(data))
    throw new StudyError("bad-roles.shape", { path });
  for (const [heading, role] of Object.entries(data)) {
    if (!ROLES.includes(role as Role))
      throw new StudyError("bad-roles.role", { heading, role: String(role), roles: [...ROLES] }, [heading]);
    roles.set(heading.trim(), role as Role);
  }
  return roles;
}

/**
 * Columns with the roles that were said in place of those guessed.
 * @throws StudyError `bad-roles` for a heading that the sheet does not have
 */
export function withRoles(columns: readonly StartColumn[], roles: ReadonlyMap<string, Role>): StartColumn[] {
  const stray = [...roles.keys()].find((heading) => !columns.some((c) => c.heading.trim() === heading));
  if (stray !== undefined)
    throw new StudyError("bad-roles.heading", { heading: stray, headings: columns.map((c) => c.heading) }, [stray]);
  return columns.map((c) => ({ ...c, role: roles.get(c.heading.trim()) ?? c.role }));
}
