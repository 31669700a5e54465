import { readdirSync, readFileSync } from "node:fs";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { waveFromSheet } from "./formats/foreign-wave";
import { previewImport } from "./formats/sheet-import";
import { readStudyFile } from "./formats/study-file";
import { ask, finish, type QuestionId } from "./questions/ask";
import { StudyError } from "./study/error";
import { Memo } from "./study/memo";
import type { Study } from "./study/schema";
import { parseStudy, studyFaults } from "./study/validate";
import { LEAKS, oddJson, oddSheet, spoilt } from "./testing/hostile";

// Whatever a file holds: it is read or refused in a sentence, in time, and what was read can be asked.
const FILES = Number(process.env.FUZZ_FILES ?? 100);
const seed = Number(process.env.FUZZ_SEED ?? 20261125);
const folder = new URL("../../examples/", import.meta.url);
const examples = readdirSync(folder)
  .filter((f) => f.endsWith(".json"))
  .map((f) => JSON.parse(readFileSync(new URL(f, folder), "utf8")) as unknown);
const slow = (files: number): { timeout: number } => ({ timeout: 240_000 + files * 400 });

/** What work answers, or the sentence it is refused with; anything else fails. */
function answered<T>(work: () => T): T | undefined {
  const before = process.cpuUsage();
  try {
    return work();
  } catch (error) {
    if (!(error instanceof StudyError)) throw error;
    expect(error.message).toMatch(/^\S[\s\S]*\.$/);
    expect(error.message).not.toMatch(LEAKS);
    expect(error.message.length).toBeLessThan(1200);
    return undefined;
  } finally {
    // Time of the processor, not of a clock: another program may have it meanwhile.
    const { user, system } = process.cpuUsage(before);
    expect((user + system) / 1e6).toBeLessThan(10);
  }
}
const QUESTIONS: [QuestionId, object][] = [
  ["appraise", { terms: "main" }],
  ["power", { effect: 1, noise: 1, replicates: 2 }],
  ["fit", { response: "y" }],
  ["predict", { at: {} }],
  ["verdict", {}],
  ["follow", { kind: "repeat" }],
  ["plan", { family: "factorial" }],
];

describe(`files of any content (${FILES})`, () => {
  let read = 0;
  it("studies are read and answer, or are refused with their faults", slow(FILES), () => {
    fc.assert(
      fc.property(
        fc.oneof({ weight: 9, arbitrary: fc.oneof(...examples.map(spoilt)) }, { weight: 1, arbitrary: oddJson }),
        (data) => {
          const study = answered(() => parseStudy(data));
          const faults = answered(() => studyFaults(data)) ?? [];
          expect(faults.length === 0).toBe(study !== undefined);
          if (!study) return;
          read++;
          // As a thread is asked: what one question derived stands for the next.
          const memo = new Memo();
          for (const [question, input] of QUESTIONS) {
            const asked = question === "fit" ? { response: (study as Study).responses[0]?.id ?? "y" } : input;
            answered(() => finish(ask(question, study, asked, memo)));
          }
        },
      ),
      { numRuns: FILES, seed },
    );
    // The spoilt files are not all beyond reading.
    expect(read).toBeGreaterThan(FILES / 20);
  });
  it("text that is no study is refused", slow(FILES), () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string({ maxLength: 200 }),
          oddJson.map((v) => JSON.stringify(v)),
        ),
        (text) => {
          answered(() => readStudyFile(text));
        },
      ),
      { numRuns: FILES, seed },
    );
  });
  it("sheets are previewed or refused", slow(FILES), () => {
    const study = parseStudy(examples[2]);
    fc.assert(
      fc.property(oddSheet, (text) => {
        answered(() => previewImport(study, text));
        answered(() => waveFromSheet(study, text, "foreign"));
      }),
      { numRuns: FILES, seed },
    );
  });
});
