import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import fc from "fast-check";
import { afterAll, describe, expect, it } from "vitest";
import { ASKED, LEAKS, LOADED, oddJson, spoilt } from "@/core/testing/hostile";
import { callHere } from "./testing/call-here";

const CALLS = Number(process.env.FUZZ_CALLS ?? 25);
const seed = Number(process.env.FUZZ_SEED ?? 20261125);
const folder = mkdtempSync(join(tmpdir(), "trialmoor-calls-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const example = JSON.parse(readFileSync("examples/raspberry-drying.trialmoor.json", "utf8")) as unknown;

const odd = fc.constantFrom(
  "NaN",
  "-1",
  "1e999",
  "__proto__",
  "",
  "constructor",
  "{",
  "0",
  "12",
  "main",
  "D",
  "Infinity",
  "'",
  "[[]]",
);
const flag = fc.constantFrom(
  "--terms",
  "--trials",
  "--response",
  "--at",
  "--seed",
  "--family",
  "--kind",
  "--alpha",
  "--json",
  "--reduce",
  "--nothing",
  "--hold",
  "--effect",
  "--centre",
);
const verb = fc.constantFrom(...ASKED, "validate", "export", ...LOADED);

describe(`the command, called at random (${CALLS})`, () => {
  it("ends with 0, 1 or 2; a refusal is one line of JSON", { timeout: 240_000 + CALLS * 6000 }, async () => {
    process.env.INIT_CWD = folder;
    const codes = new Set<number | null>();
    const file = fc.oneof(
      { weight: 6, arbitrary: spoilt(example) },
      { weight: 3, arbitrary: fc.constant(example) },
      { weight: 1, arbitrary: oddJson },
    );
    await fc.assert(
      fc.asyncProperty(verb, file, fc.array(fc.tuple(flag, odd), { maxLength: 3 }), async (name, data, flags) => {
        writeFileSync(join(folder, "study.json"), JSON.stringify(data) ?? "");
        // What needs one is mostly given it, so that calls get past the door.
        const given = name === "fit" || name === "surface" || name === "subsets" ? ["--response", "colour"] : [];
        const { code, out, err } = await callHere([name, "study.json", ...given, ...flags.flat()]);
        expect([0, 1, 2]).toContain(code);
        expect(err).not.toMatch(LEAKS);
        expect(out).not.toMatch(/\bNaN\b|\bundefined\b|\bInfinity\b/);
        if (code === 1 && name !== "validate") {
          expect(out).toBe("");
          expect(err.trim().split("\n")).toHaveLength(1);
          expect(JSON.parse(err)).toMatchObject({ code: expect.any(String), message: expect.any(String) });
        }
        codes.add(code);
      }),
      { numRuns: CALLS, seed },
    );
    // Calls of all three kinds are among them.
    expect([...codes].sort()).toEqual([0, 1, 2]);
  });
});
