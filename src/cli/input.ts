import { readFileSync, renameSync, writeFileSync } from "node:fs";
import { resolve } from "node:path";
import { checkTerms, readStudyFile, type Study, StudyError, type Term, writeStudyFile } from "@/core";

/** Paths are relative to where the command was called, not to where npm runs it. */
const locate = (path: string): string => resolve(process.env.INIT_CWD ?? process.cwd(), path);

export function readText(path: string): string {
  try {
    return readFileSync(path === "-" ? 0 : locate(path), "utf8");
  } catch {
    throw new StudyError("no-file", `The file ${path} cannot be read; check its name.`, [path]);
  }
}

/** The study in a file, or on standard input for `-`. */
export const readStudy = (path: string): Study => readStudyFile(readText(path));

/** What a file holds as JSON, whatever it is. */
export function readJson(path: string): unknown {
  try {
    return JSON.parse(readText(path));
  } catch (error) {
    if (error instanceof StudyError) throw error;
    throw new StudyError("not-json", `${path} is not a study file: its text is not JSON.`, [path]);
  }
}

/** Writes text to a file, whole or not at all, or for `-` to standard output. */
export function writeOut(text: string, target: string): void {
  if (target === "-") {
    process.stdout.write(text);
    return;
  }
  const file = locate(target);
  try {
    writeFileSync(`${file}.part`, text);
    renameSync(`${file}.part`, file);
  } catch {
    throw new StudyError("cannot-write", `The file ${target} cannot be written.`, [target]);
  }
}

/** Writes a study to `out`, else in place, else (for `-`) to standard output. */
export const writeStudy = (study: Study, path: string, out: string | undefined): void =>
  writeOut(writeStudyFile(study), out ?? path);

/** Sets of terms that have a name. */
export const TERM_SETS = ["main", "main+2fi", "quadratic"] as const;

/** A file with a JSON array of terms, checked against the study. */
export function readTerms(study: Study, text: string): Term[] {
  let data: unknown;
  try {
    data = JSON.parse(readText(text));
  } catch (error) {
    if (error instanceof StudyError)
      throw new StudyError(
        "bad-terms",
        `Terms “${text}” are neither main, main+2fi, quadratic nor a file that can be read.`,
        ["terms"],
      );
    throw new StudyError("bad-terms", `The file ${text} does not hold a JSON array of terms.`, ["terms"]);
  }
  if (!Array.isArray(data) || !data.every((t) => Array.isArray(t) && t.every((id) => typeof id === "string")))
    throw new StudyError(
      "bad-terms",
      `The file ${text} does not hold a JSON array of terms, each an array of factor ids.`,
      ["terms"],
    );
  return checkTerms(study, data as Term[]);
}

/** Settings given as JSON on the command line. */
export function readSettings(text: string, flag: string): Record<string, number | string> {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    throw new StudyError("bad-settings", `${flag} is not JSON; write it like '{"temp":60}'.`, [flag]);
  }
  if (
    typeof data !== "object" ||
    data === null ||
    Array.isArray(data) ||
    !Object.values(data).every((v) => typeof v === "number" || typeof v === "string")
  )
    throw new StudyError("bad-settings", `${flag} must be an object of settings, like '{"temp":60}'.`, [flag]);
  return data as Record<string, number | string>;
}
