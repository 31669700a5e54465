import { describe, expect, it } from "vitest";
import { StudyError } from "@/core/study";

import { endOf, WrongCall } from "./main";

describe("a call that threw ends with a code and one line", () => {
  it("of what was refused: JSON with code, message and path", () => {
    const { exitCode, line } = endOf(new StudyError("no-goals", {}, ["responses"]));
    expect(exitCode).toBe(1);
    expect(JSON.parse(line ?? "")).toMatchObject({ code: "no-goals", path: ["responses"] });
  });
  it("of a wrong call: the sentence", () => {
    expect(endOf(new WrongCall("Say which."))).toEqual({ exitCode: 2, line: "Say which." });
  });
  it("of a fault of its own: the same JSON, its first line alone, and no inside", () => {
    const { exitCode, line } = endOf(new RangeError("singular\n    at inverted (matrices.ts:55:9)"));
    expect(exitCode).toBe(3);
    expect(line).not.toContain("\n");
    expect(JSON.parse(line ?? "")).toMatchObject({
      code: "internal",
      message: expect.stringContaining("RangeError: singular)"),
    });
  });
});
