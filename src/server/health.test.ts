import { describe, expect, it, vi } from "vitest";
import { database } from "./database";
import { checkHealth } from "./health";
import { ownFolder } from "./testing/own-folder";

ownFolder("health");

describe("health", () => {
  it("is probed once for all who ask within a second, and a stranger makes nothing be written", async () => {
    const db = await database();
    const writes = vi.spyOn(db, "write");
    const now = vi.spyOn(performance, "now").mockReturnValue(1e6);
    const asked = await Promise.all(Array.from({ length: 3000 }, () => checkHealth(true)));
    expect(new Set(asked.map((a) => a.status))).toEqual(new Set(["ok"]));
    expect(writes).toHaveBeenCalledTimes(1);
    now.mockReturnValue(1e6 + 1001);
    expect(await checkHealth(false)).toEqual({ status: "ok" });
    expect(writes).toHaveBeenCalledTimes(1);
    await checkHealth(true);
    expect(writes).toHaveBeenCalledTimes(2);
    vi.restoreAllMocks();
  });
  it("says that a write would fail, to all who share the probe", async () => {
    const db = await database();
    vi.spyOn(performance, "now").mockReturnValue(2e6);
    vi.spyOn(db, "write").mockRejectedValue(new Error("full"));
    const ends = await Promise.allSettled([checkHealth(true), checkHealth(true), checkHealth(true)]);
    expect(ends.map((e) => e.status)).toEqual(["rejected", "rejected", "rejected"]);
    vi.restoreAllMocks();
  });
});
