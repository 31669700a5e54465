import { describe, expect, it } from "vitest";
import { faultOf } from "./log";

describe("what a log says of a fault", () => {
  it("is its message and where it arose, whatever was thrown", () => {
    const clone = new DOMException("a function could not be cloned", "DataCloneError");
    expect(faultOf(clone)).toMatchObject({ message: "a function could not be cloned", stack: expect.any(String) });
    expect(faultOf({ message: "from a thread", stack: "at work", code: "E" })).toEqual({
      message: "from a thread",
      stack: "at work",
      code: "E",
    });
    expect(faultOf("a word")).toEqual({ message: "a word" });
    expect(faultOf(undefined)).toEqual({ message: "undefined" });
    expect(faultOf(new RangeError("too far")).stack).toContain("log.test");
  });
});
