import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, describe, expect, it } from "vitest";
import { certificate } from "../testing/certificate";
import { isLoopback, reachedAt, readOpening } from "./opening";

const folder = mkdtempSync(join(tmpdir(), "trialmoor-opening-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe("how the server is reached", () => {
  const { key, cert } = certificate(folder, "plant.test");
  const other = certificate(join(folder, "other"), "other.test");
  const TLS = { TRIALMOOR_TLS_KEY: key, TRIALMOOR_TLS_CERT: cert };

  it("is by this machine alone unless more is asked for", () => {
    expect(readOpening({})).toEqual({ host: "127.0.0.1", opened: false, proxy: false, names: [] });
    for (const host of ["localhost", "127.0.0.9", "::1"])
      expect(readOpening({ TRIALMOOR_HOST: host }).opened, host).toBe(false);
  });
  it("is open with encryption and a name, or behind a proxy of this machine", () => {
    expect(readOpening({ TRIALMOOR_HOST: "0.0.0.0", TRIALMOOR_NAMES: "Plant.test, b.test", ...TLS })).toMatchObject({
      opened: true,
      proxy: false,
      names: ["plant.test", "b.test"],
    });
    // An address of its own is a name too.
    expect(readOpening({ TRIALMOOR_HOST: "10.0.0.7", ...TLS }).names).toEqual(["10.0.0.7"]);
    expect(readOpening({ TRIALMOOR_HOST: "fd00::7", ...TLS }).names).toEqual(["[fd00::7]"]);
    expect(readOpening({ TRIALMOOR_PROXY: "1", TRIALMOOR_NAMES: "plant.test" })).toMatchObject({
      host: "127.0.0.1",
      opened: true,
      proxy: true,
    });
  });
  it.each([
    [{ TRIALMOOR_HOST: "0.0.0.0", TRIALMOOR_NAMES: "plant.test" }, /^To be reached at 0\.0\.0\.0.* encryption/],
    [{ TRIALMOOR_HOST: "::", ...TLS }, /names that people call it by/],
    [{ TRIALMOOR_PROXY: "1" }, /names that people call it by/],
    [{ TRIALMOOR_PROXY: "yes" }, /TRIALMOOR_PROXY is yes/],
    [{ TRIALMOOR_HOST: "10.0.0.7", TRIALMOOR_TLS_KEY: key }, /go together/],
    [{ TRIALMOOR_HOST: "10.0.0.7", ...TLS, TRIALMOOR_TLS_KEY: "/nowhere.pem" }, /cannot be used: ENOENT/],
    // The key of another certificate.
    [{ TRIALMOOR_HOST: "10.0.0.7", ...TLS, TRIALMOOR_TLS_KEY: other.key }, /cannot be used: .*mismatch/i],
  ])("is refused in a sentence where something is missing: %j", (env, sentence) => {
    expect(() => readOpening(env)).toThrow(sentence);
  });
  it("knows this machine's own addresses", () => {
    const asked = ["127.0.0.1", "127.3.2.1", "::1", "::ffff:127.0.0.1", "10.0.0.1", "::ffff:10.0.0.1", "fe80::1", ""];
    expect(asked.filter(isLoopback)).toEqual(asked.slice(0, 4));
  });
});

describe("where another device finds the server", () => {
  it.each([
    ["https://plant.test:8443", "", { origin: "https://plant.test:8443", here: false }],
    ["https://localhost:8443", "plant.test,other.test", { origin: "https://plant.test:8443", here: false }],
    ["http://127.0.0.1:3000", "Plant.test", { origin: "http://plant.test:3000", here: false }],
    ["http://[::1]:3000", "", { origin: "http://[::1]:3000", here: true }],
    ["http://127.0.0.1:3000", "", { origin: "http://127.0.0.1:3000", here: true }],
  ])("asked at %s with the names “%s”", (origin, names, found) => {
    expect(reachedAt(origin, { TRIALMOOR_NAMES: names })).toEqual(found);
  });
});
