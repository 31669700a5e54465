import { describe, expect, it } from "vitest";
import { guard, hostsAnswered, securityHeaders } from "./guard";
import { Problem } from "./problem";

const hosts = hostsAnswered(4270, ["plant.test", "lab.test:8443"]);
/** Status of the refusal of a request; undefined where it passes. */
function refusal(method: string, url: string, headers: Record<string, string> = {}): number | undefined {
  try {
    guard({ method, url, headers: { host: "localhost:4270", ...headers } }, hosts);
    return undefined;
  } catch (error) {
    return error instanceof Problem ? error.status : -1;
  }
}
const json = { "content-type": "application/json", "content-length": "2" };

describe("what reaches the application", () => {
  it.each([
    "localhost:4270",
    "127.0.0.1:4270",
    "[::1]:4270",
    "LOCALHOST:4270",
    "plant.test",
    "plant.test:4270",
    "lab.test:8443",
  ])("is answered as %s", (host) => expect(refusal("GET", "/", { host })).toBeUndefined());
  it.each([
    "evil.test",
    "evil.test:4270",
    "localhost",
    "localhost:80",
    "localhost.evil.test:4270",
    "127.0.0.1:4271",
    "",
  ])("is not answered as “%s”", (host) => expect(refusal("GET", "/", { host })).toBe(421));
  it.each(["/%E0%A4%A", "/studies/%ff", "/api/jobs/%00", "/%"])("%s cannot be read", (url) =>
    expect(refusal("GET", url)).toBe(400),
  );
  it("reads from any page, since a foreign one cannot see the answer", () => {
    expect(refusal("GET", "/api/studies", { origin: "http://evil.test" })).toBeUndefined();
    expect(refusal("HEAD", "/api/studies", { "sec-fetch-site": "cross-site" })).toBeUndefined();
  });
  it.each(["POST", "PUT", "PATCH", "DELETE"])("%s is for our own pages and for programs", (method) => {
    expect(refusal(method, "/api/studies", json)).toBeUndefined();
    expect(refusal(method, "/api/studies", { ...json, origin: "http://localhost:4270" })).toBeUndefined();
    expect(refusal(method, "/api/studies", { ...json, origin: "http://localhost:3000" })).toBe(403);
    expect(refusal(method, "/api/studies", { ...json, origin: "https://evil.test" })).toBe(403);
    expect(refusal(method, "/api/studies", { ...json, origin: "null" })).toBe(403);
    expect(refusal(method, "/api/studies", { ...json, "sec-fetch-site": "cross-site" })).toBe(403);
    // The same name at another port, or by another scheme, is another page, though browsers call it the same site.
    const lab = { host: "lab.test:8443", "x-forwarded-proto": "https" };
    expect(refusal(method, "/api/studies", { ...json, ...lab, origin: "https://lab.test:8443" })).toBeUndefined();
    for (const origin of ["https://lab.test", "https://lab.test:9000", "http://lab.test:8443", "https://plant.test"])
      expect(refusal(method, "/api/studies", { ...json, ...lab, origin }), origin).toBe(403);
    const plant = { host: "plant.test", "x-forwarded-proto": "https" };
    for (const origin of ["https://plant.test", "https://plant.test:443"])
      expect(refusal(method, "/api/studies", { ...json, ...plant, origin }), origin).toBeUndefined();
    for (const site of ["same-site", "none"])
      expect(refusal(method, "/api/studies", { ...json, "sec-fetch-site": site }), site).toBe(403);
    expect(refusal(method, "/api/studies", { ...json, "sec-fetch-site": "same-origin" })).toBeUndefined();
  });
  it("takes bodies of JSON, and sheets where sheets are imported", () => {
    const form = { "content-type": "application/x-www-form-urlencoded", "content-length": "3" };
    const sheet = { "content-type": "text/csv", "content-length": "3" };
    expect(refusal("POST", "/api/studies/x/restore", form)).toBe(415);
    // A form of no fields has a type and no body.
    expect(refusal("POST", "/api/studies/x/restore", { ...form, "content-length": "0" })).toBe(415);
    expect(refusal("POST", "/api/studies/x/restore", { "content-type": "text/plain", "content-length": "3" })).toBe(
      415,
    );
    expect(refusal("POST", "/api/studies/x/restore", { "transfer-encoding": "chunked" })).toBe(415);
    expect(refusal("POST", "/api/studies/x/restore")).toBeUndefined();
    expect(refusal("POST", "/api/studies/x/import?dry=1", sheet)).toBeUndefined();
    expect(refusal("POST", "/api/studies/x/import", { ...sheet, "content-type": "text/plain" })).toBeUndefined();
    expect(refusal("POST", "/api/studies/import", sheet)).toBe(415);
    expect(refusal("POST", "/api/studies", { ...json, "content-type": "application/problem+json" })).toBeUndefined();
    expect(refusal("POST", "/api/studies", { ...json, "content-type": "application/jsonp" })).toBe(415);
  });
  it("is not larger than 25 MB by its own word", () => {
    expect(refusal("POST", "/api/studies", { ...json, "content-length": "25000000" })).toBeUndefined();
    expect(refusal("POST", "/api/studies", { ...json, "content-length": "25000001" })).toBe(413);
  });
});

describe("the headers of every answer", () => {
  it("let nothing run but our own scripts, and nobody frame us", () => {
    const policy = securityHeaders("abc")["content-security-policy"];
    const directives = new Map(policy.split("; ").map((d) => [d.split(" ")[0], d.split(" ").slice(1)]));
    expect(directives.get("default-src")).toEqual(["'none'"]);
    expect(directives.get("script-src")).toEqual(["'self'", "'nonce-abc'"]);
    expect(directives.get("style-src")).toEqual(["'self'", "'nonce-abc'"]);
    expect(directives.get("frame-ancestors")).toEqual(["'none'"]);
    expect(directives.get("connect-src")).toEqual(["'self'"]);
    expect(policy).not.toMatch(/unsafe-eval|script-src[^;]*unsafe/);
  });
});
