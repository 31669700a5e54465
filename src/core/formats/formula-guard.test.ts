import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { guarded, unguarded } from "./formula-guard";

describe("cells that a spreadsheet would run", () => {
  it.each([
    ["=9", "'=9"],
    ["@sum", "'@sum"],
    ["-cmd", "'-cmd"],
    [" +a", " '+a"],
    ["'=9", "''=9"],
    ["\uFF1D9", "'\uFF1D9"],
    ["\uFF20x", "'\uFF20x"],
    ["\uFF0Bx", "'\uFF0Bx"],
    ["\uFF0Dx", "'\uFF0Dx"],
    // Opened with another separator its second half is a cell of its own.
    ["ok;=9", "ok;'=9"],
    ["a\t=9", "a\t'=9"],
    ["a, b, =9", "a, b, '=9"],
    ["first\n=9", "first\n'=9"],
  ])("%j becomes %j, and is itself again when it is read", (text, safe) => {
    expect(guarded(text)).toBe(safe);
    expect(unguarded(safe)).toBe(text);
  });
  it.each(["-5", "+3.5e-7", "7.9; -8.1; 8", "a = b", "5-6", "on - off", ""])("%j stays as it is", (text) =>
    expect(guarded(text)).toBe(text),
  );
  it("any text comes back as it went, and no part of it begins a formula", () => {
    const odd = fc.string({ unit: fc.constantFrom(..."ab1=+-@;,\t|' \n\uFF1D".split("")), maxLength: 12 });
    fc.assert(
      fc.property(odd, (text) => {
        expect(unguarded(guarded(text))).toBe(text);
        for (const part of guarded(text).split(/[;\t,|\n]/)) if (/^\s*[=@\uFF1D]/.test(part)) throw new Error(part);
      }),
      { numRuns: 2000 },
    );
  });
});
