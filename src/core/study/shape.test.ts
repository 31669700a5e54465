import { describe, expect, it } from "vitest";
import * as z from "zod";
import { holdAgainst } from "./shape";
import { parseStudy, studyFaults } from "./validate";

describe("data held against a schema", () => {
  const title = z.strictObject({ title: z.string().max(200) });
  it("is read or refused as the schema says", () => {
    expect(holdAgainst(title, { title: "T" })).toEqual({ success: true, data: { title: "T" } });
    expect(holdAgainst(title, { title: 3 }).success).toBe(false);
  });
  it("is refused in a sentence where it pretends to have a length that cannot be compared", () => {
    const odd = { title: { length: { toString: [] } } };
    expect(() => holdAgainst(title, odd)).toThrow("Something in it has a “length” and is no text or list");
    const file = { format: "trialmoor-study", version: 1, ...odd };
    expect(() => parseStudy(file)).toThrow("is no text or list");
    expect(studyFaults(file).map((f) => f.code)).toEqual(["unreadable"]);
  });
});
