import { describe, expect, it } from "vitest";
import type { SubsetModel } from "@/core/model";
import { orderedBy, setKey } from "./criteria";

const model = (name: string, k: number, aicc: number | null, r2Adjusted: number | null = null): SubsetModel => ({
  terms: [...name].map((id) => [id]),
  k,
  rss: null,
  r2: null,
  r2Adjusted,
  r2Predicted: null,
  aicc,
  bic: null,
  weight: 0,
});
const names = (models: readonly SubsetModel[]): string[] => models.map((m) => m.terms.flat().join(""));

describe("rivals by a criterion", () => {
  const found = [model("b", 1, -3, 0.2), model("a", 1, -9, 0.5), model("abc", 3, null, 0.9), model("ab", 2, -20, 0.4)];
  it("the smaller AICc is better, the larger adjusted R²; what has none is left out", () => {
    expect(names(orderedBy("aicc", found).models)).toEqual(["ab", "a", "b"]);
    expect(names(orderedBy("r2Adjusted", found).models)).toEqual(["abc", "a", "ab", "b"]);
    expect(orderedBy("bic", found)).toMatchObject({ models: [], bySize: [] });
  });
  it("the best of each size stands by size", () => {
    expect(names(orderedBy("aicc", found).bySize)).toEqual(["a", "ab"]);
    expect(names(orderedBy("r2Adjusted", found).bySize)).toEqual(["a", "ab", "abc"]);
  });
  it("draws to the worst of the best of each size, at most 40 beyond the best AICc or 0.6 of R²", () => {
    const within = (by: "aicc" | "r2Adjusted", models: SubsetModel[]): string[] => {
      const ordered = orderedBy(by, models);
      return names(ordered.models.filter(ordered.within));
    };
    expect(within("aicc", found)).toEqual(["ab", "a"]);
    expect(within("aicc", [...found, model("c", 0, 21), model("d", 4, 19)])).toEqual(["ab", "a", "b", "d"]);
    expect(within("r2Adjusted", [...found, model("d", 0, null, 0.1)])).toEqual(["abc", "a", "ab"]);
  });
  it("a set of terms is one word, whatever its order", () => {
    expect(setKey([["b"], ["a", "b"]])).toBe(setKey([["a", "b"], ["b"]]));
    expect(setKey([["a"]])).not.toBe(setKey([["a", "a"]]));
  });
});
