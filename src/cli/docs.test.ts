import { cpSync, mkdtempSync, readdirSync, readFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { families } from "@/core/plans";
import { openQuestions } from "@/core/questions";
import { flagName } from "./flags";
import { exampleCall } from "./main";
import { callHere } from "./testing/call-here";

const PROGRAM = /^npm (?:--prefix \S+ )?run --silent headless -- /;

/** Every call of the command in the docs, in their order, as it is typed. */
const calls = (file: string): string[] =>
  readFileSync(file, "utf8")
    .split("\n")
    .map((line) => line.trim().replace(/\s+#.*$/, ""))
    .filter((line) => PROGRAM.test(line));

/** Words of a call, those in single quotes whole. */
const words = (call: string): string[] =>
  [...call.replace(PROGRAM, "").matchAll(/'([^']*)'|(\S+)/g)].map((m) => m[1] ?? m[2]);

const folder = mkdtempSync(join(tmpdir(), "trialmoor-docs-"));
cpSync("examples", join(folder, "examples"), { recursive: true });
Object.assign(process.env, { INIT_CWD: folder, TRIALMOOR_EXAMPLES: join(process.cwd(), "examples") });

describe("calls in the docs do what they say", () => {
  // The page of the command first: it makes the study that others name.
  const all = [...new Set(["docs/headless.md", "README.md", "docs/guide.md", "docs/study-file.md"].flatMap(calls))];
  // A study is made before it is read.
  const ordered = [
    ...all.filter((c) => c.includes("--format json")),
    ...all.filter((c) => !c.includes("--format json")),
  ];
  it("reads them", () => expect(ordered.length).toBeGreaterThanOrEqual(20));
  it.each(ordered)("%s", async (call) => {
    const { code, err, out } = await callHere(words(call));
    expect(err).toBe("");
    expect(code).toBe(0);
    if (!call.includes(" --out ")) expect(out.trim()).not.toBe("");
  });
});

describe("the page of the command", () => {
  const page = readFileSync("docs/headless.md", "utf8");
  it("has the example of every question, as the help prints it", () => {
    for (const question of openQuestions()) expect(page).toContain(exampleCall(question));
  });
  it("names every family with each of its own options", () => {
    const table = page.slice(page.indexOf("## Families of plans"));
    for (const family of families) {
      const row = table.split("\n").find((line) => line.startsWith(`| \`${family.id}\``)) ?? "";
      expect(row).not.toBe("");
      const own = Object.keys(family.options).filter((key) => !["starts", "keep"].includes(key));
      for (const key of [...own, ...(family.uses ?? [])]) expect(row).toContain(`--${flagName(key)}`);
    }
  });
  it("names no file of the docs that is not there", () => {
    const here = new Set(readdirSync("docs"));
    for (const [, target] of page.matchAll(/\]\(([\w-]+\.md)\)/g)) expect(here).toContain(target);
  });
});
