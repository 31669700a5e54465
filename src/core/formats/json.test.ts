import { describe, expect, it } from "vitest";
import { parseJson } from "./json";

const code = (text: string): unknown => {
  try {
    return parseJson(text, { of: "body", name: "" });
  } catch (error) {
    return (error as { code: string }).code;
  }
};

describe("JSON from outside", () => {
  it("is read as it stands, a byte order mark before it or not", () => {
    expect(code('{"a":[1,{"b":"]"}]}')).toEqual({ a: [1, { b: "]" }] });
    expect(code('\uFEFF{"a":1}')).toEqual({ a: 1 });
  });
  it("is refused where it is none, saying what it should have been", () => {
    expect(() => parseJson("{", { of: "terms", name: "t.json" })).toThrow("t.json does not hold a JSON array");
    expect(code("")).toBe("not-json");
  });
  it("is refused from the 65th bracket within brackets on, and brackets in strings do not count", () => {
    const nested = (n: number): string => "[".repeat(n) + "]".repeat(n);
    expect(code(nested(64))).toHaveLength(1);
    expect(code(nested(65))).toBe("too-deep");
    expect(code(nested(8000))).toBe("too-deep");
    expect(code('{"a":'.repeat(65) + "1" + "}".repeat(65))).toBe("too-deep");
    expect(code(JSON.stringify({ a: "[".repeat(8000), b: '\\"[' }))).toEqual({ a: "[".repeat(8000), b: '\\"[' });
    // Many side by side are no depth.
    expect(code(`[${"[],".repeat(1000)}[]]`)).toHaveLength(1001);
  });
  it("is refused where a name would be lost on its way, or a text changed, however it is written", () => {
    expect(code('{"results":{"__proto__":5}}')).toBe("odd-key");
    expect(code('{"\\u005f_proto__":5}')).toBe("odd-key");
    expect(code('{"a":["ok","\\ud800"]}')).toBe("odd-text");
    expect(code('{"\\udc00":1}')).toBe("odd-key");
    // Two halves are a whole letter, and the word as a text is one.
    expect(code('{"a":"\\ud83d\\ude00","b":"__proto__"}')).toEqual({ a: "😀", b: "__proto__" });
  });
});
