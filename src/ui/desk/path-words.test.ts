import { describe, expect, it } from "vitest";
import { parseStudy } from "@/core";
import { cellWords, pathWords } from "./path-words";

const study = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "t",
  factors: [{ id: "f1", name: "Bowl temperature", kind: "continuous", low: 0, high: 1 }],
  responses: [{ id: "r1", name: "Moisture" }],
  waves: [{ id: "w1", name: "East line" }],
  trials: [{ id: "t9", wave: "w1", order: 3, settings: { f1: 0 } }],
});

describe("places in words, never by ids where there is a name", () => {
  it.each([
    [["trials", "t9", "results", "r1"], "Trial 3, Moisture"],
    [["trials", "t9", "asRun", "f1"], "Trial 3, Bowl temperature, as run"],
    [["trials", "t9", "note"], "Trial 3, note"],
    [["trials", "gone", "note"], "A trial that is gone, note"],
    [["factors", "f1", "low"], "Bowl temperature, low"],
    [["responses", "r1"], "Response Moisture"],
    [["waves", "w1", "name"], "East line, name"],
    [["models", "r1"], "Model of Moisture"],
    [["title"], "Title of the study"],
    [["factors"], "Order of the factors"],
  ])("%j", (path, words) => expect(pathWords(study, path)).toBe(words));
});

describe("what stands in a cell, in words", () => {
  it.each<[unknown, string]>([
    [undefined, "nothing"],
    ["", "nothing"],
    [3.5, "3.5"],
    ["f1", "Bowl temperature"],
    [{ f1: 0.5 }, "Bowl temperature 0.5"],
    [{ id: "r2", name: "Cost", importance: 1, goal: { aim: "watch" } }, "Cost; importance 1; goal aim watch"],
    [[["f1"], ["f1", "f1"]], "Bowl temperature, Bowl temperature, Bowl temperature"],
  ])("%j", (value, words) => expect(cellWords(study, value)).toBe(words));
  it("is cut where it would push its question out of sight", () => {
    expect(cellWords(study, "x".repeat(500))).toBe(`${"x".repeat(120)}…`);
  });
});
