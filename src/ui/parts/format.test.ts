import { describe, expect, it } from "vitest";
import { axisName, clip, ownError, percent, pShown, settingText, shareText, valueText } from "./format";

describe("figures as they are shown", () => {
  // Two to three significant figures of the standard error decide the decimals.
  it.each([
    [0.45023, 0.0064, undefined, "0.450"],
    [63.1842, 0.152, undefined, "63.18"],
    [12.3721, 0.0204, undefined, "12.372"],
    [-3.2468, 0.5, undefined, "−3.25"],
  ])("%f with error %f", (value, error, decimals, text) => {
    const shown = valueText(decimals === undefined ? {} : { decimals }, value, error);
    // No digit is more than a few tenths of the error, and none that the error leaves is cut.
    const places = shown.split(".")[1]?.length ?? 0;
    expect(10 ** -places).toBeLessThanOrEqual(error);
    expect(10 ** -places).toBeGreaterThanOrEqual(error / 150);
    expect(Number(shown.replace("−", "-"))).toBeCloseTo(value, places - 1);
    expect(shown.startsWith(text.slice(0, 4))).toBe(true);
  });
  it("never more decimals than the gauge has", () => {
    expect(valueText({ decimals: 1 }, 63.1842, 0.01)).toBe("63.2");
    expect(valueText({ decimals: 0 }, -63.6, 0.2)).toBe("−64");
    expect(valueText({ decimals: 2 }, 63.1842, null)).toBe("63.18");
  });
  it("three figures where there is neither error nor gauge", () =>
    expect(valueText(undefined, 1234.56, null)).toMatch(/^123[0-9]/));
  it.each([
    [0.1 + 0.2, "0.3"],
    [-0.5, "−0.5"],
    [1e-7, "1e−7"],
    ["hill", "hill"],
    [undefined, "–"],
    [540, "540"],
  ])("the setting %s", (value, text) => expect(settingText(value)).toBe(text));
  it.each([
    [null, ""],
    [0.0004, "p under 0.001"],
    [0.0214, "p 0.021"],
    [0.0996, "p 0.100"],
    [0.3456, "p 0.35"],
    [1, "p 1.00"],
  ])("p of %s", (p, text) => expect(pShown(p)).toBe(text));
  it("shares, names and axes", () => {
    expect([percent(0.4567), percent(0.4567, 1), percent(0)]).toEqual(["46 %", "45.7 %", "0 %"]);
    expect([clip("Detergent", 9), clip("Bowl temperature", 9), clip("ab", 1)]).toEqual([
      "Detergent",
      "Bowl tem…",
      "a…",
    ]);
    expect([axisName("Feed", "kg/h"), axisName("Whiteness", undefined)]).toEqual(["Feed, kg/h", "Whiteness"]);
  });
});

describe("the error that decides decimals", () => {
  it("is the standard error, or on another scale a quarter of the interval that was brought back", () => {
    expect(ownError({ standardError: 0.02, meanInterval: [1, 3] }, { identity: true })).toBe(0.02);
    expect(ownError({ standardError: 0.02, meanInterval: [100, 140] }, { identity: false })).toBe(10);
    expect(ownError({ standardError: null, meanInterval: null }, { identity: false })).toBeNull();
  });
});

describe("R² and its kin", () => {
  it.each([
    [0.12345, 3, "0.123"],
    [-3.168, 2, "−3.17"],
    // What is rounded to nothing has no sign.
    [-0.0004, 2, "0.00"],
    [-0, 3, "0.000"],
    [null, 3, "–"],
    [undefined, 2, "–"],
  ])("%d to %i decimals", (value, decimals, text) => expect(shareText(value, decimals)).toBe(text));
});
