// Checks the habits of the house that no formatter knows: nothing is remembered at module level in the core, functions
// and lines stay readable, and tests keep their share of the lines. Says each fault by file and line.
import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { parseSync } from "@swc/core";
import { root } from "./lib.mjs";

const WIDTH = 120;
/** A text in quotes, in backticks or in a pattern. */
const SENTENCE = /"(?:[^"\\]|\\.)*"|`[^`]*`?|\/(?:[^/\\\n]|\\.)+\/[gimsuy]*[,.);]/g;
/** Lines of a function: components draw what they say, so they may be longer. */
const LONGEST = { core: 100, other: 150 };
/** Files with longer functions from before this was checked: how long they may be, and never longer again. */
const standing = JSON.parse(readFileSync(join(import.meta.dirname, "long-functions.json"), "utf8"));
/** Tests, of all lines of code. */
const TESTS = 0.24;
/** A function may be longer where the line above it says why. */
const REASON = /\bLong:/;

const faults = [];
const FOLDERS = ["src", "e2e", "bench", "scripts", "tools"];
const beside = readdirSync(root).filter((f) => !FOLDERS.includes(f));
const inside = FOLDERS.flatMap((folder) =>
  readdirSync(join(root, folder), { recursive: true }).map((f) => `${folder}/${f}`),
);
const files = [...beside, ...inside].filter(
  (f) =>
    /\.(tsx?|mjs|cjs|css)$/.test(f) &&
    !f.includes("node_modules/") &&
    !f.endsWith(".gen.d.ts") &&
    f !== "next-env.d.ts",
);
const isTest = (f) => /\.test\.ts$|^e2e\/|\/testing\//.test(f);

/** Each node with the functions around it. */
function walk(node, visit, within = []) {
  if (Array.isArray(node)) {
    for (const n of node) walk(n, visit, within);
    return;
  }
  if (node === null || typeof node !== "object") return;
  let inner = within;
  if (typeof node.type === "string") {
    visit(node, within);
    if (/Function|ClassMethod|PrivateMethod|Constructor|MethodProperty/.test(node.type) && node.body)
      inner = [...within, node];
  }
  for (const [key, value] of Object.entries(node))
    if (key !== "span" && value !== null && typeof value === "object") walk(value, visit, inner);
}

const CHANGES = new Set([
  "set",
  "add",
  "delete",
  "clear",
  "push",
  "pop",
  "shift",
  "unshift",
  "splice",
  "sort",
  "reverse",
  "fill",
]);

/** What a module remembers from call to call: variables that change, and collections that its functions fill. */
function moduleState(ast, at) {
  /** Names at module level, with the scope that the parser gives them: another of the same name is told apart by it. */
  const fixed = new Map();
  for (const item of ast.body) {
    const declared = item.type === "ExportDeclaration" ? item.declaration : item;
    if (declared.type !== "VariableDeclaration") continue;
    if (declared.kind !== "const") faults.push(`${at(declared.span)} is a variable at module level`);
    for (const d of declared.declarations) if (d.id.type === "Identifier") fixed.set(d.id.value, d.id.ctxt);
  }
  walk(ast.body, (node, within) => {
    if (within.length === 0) return;
    const target =
      node.type === "CallExpression" &&
      node.callee.type === "MemberExpression" &&
      CHANGES.has(node.callee.property.value)
        ? node.callee.object
        : node.type === "AssignmentExpression" && node.left.type === "MemberExpression"
          ? node.left.object
          : undefined;
    if (target?.type === "Identifier" && fixed.has(target.value) && fixed.get(target.value) === target.ctxt)
      faults.push(`${at(node.span)} changes “${target.value}”, which the module keeps from call to call`);
  });
}

for (const file of files.filter((f) => /^(src|scripts|bench)\/.*\.(tsx?|mjs)$/.test(f))) {
  const source = readFileSync(join(root, file), "utf8");
  const lines = source.split("\n");
  lines.forEach((line, i) => {
    // Sentences stay whole, so that they are found by what they say; all else is broken at the width.
    if (line.replace(SENTENCE, "").length > WIDTH) faults.push(`${file}:${i + 1} is ${line.length} characters wide`);
  });
  if (isTest(file)) continue;
  // Spans count bytes from 1.
  const bytes = Buffer.from(source);
  const ast = parseSync(source, { syntax: "typescript", tsx: file.endsWith("x"), target: "esnext" });
  const lineOf = (offset) =>
    bytes
      .subarray(0, offset - 1)
      .toString("utf8")
      .split("\n").length;
  const at = (span) => `${file}:${lineOf(span.start)}`;
  if (file.startsWith("src/core/")) moduleState(ast, at);
  const most = standing[file] ?? (file.startsWith("src/core/") ? LONGEST.core : LONGEST.other);
  let longest = 0;
  walk(ast.body, (node) => {
    if (
      !/^(FunctionDeclaration|FunctionExpression|ArrowFunctionExpression|ClassMethod|MethodProperty)$/.test(node.type)
    )
      return;
    const span = node.span ?? node.function?.span;
    if (!span) return;
    const first = lineOf(span.start);
    const length = lineOf(span.end) - first + 1;
    longest = Math.max(longest, length);
    if (length > most && !lines.slice(Math.max(0, first - 12), first).some((l) => REASON.test(l)))
      faults.push(
        `${file}:${first} is a function of ${length} lines; over ${most} it says why, after “Long:” above it`,
      );
  });
  if (standing[file] > longest)
    faults.push(`${file}: its longest function is down to ${longest} lines; say so in long-functions.json`);
}
for (const file of Object.keys(standing))
  if (!files.includes(file)) faults.push(`${file} is gone; take it out of long-functions.json`);

const count = (files) => files.reduce((t, f) => t + readFileSync(join(root, f), "utf8").split("\n").length - 1, 0);
const share = count(files.filter(isTest)) / count(files);
if (share < TESTS)
  faults.push(`Tests are ${(100 * share).toFixed(1)} % of the lines; they stay above ${100 * TESTS} %`);

for (const fault of faults) console.error(fault);
console.log(`${files.length} files; tests are ${(100 * share).toFixed(1)} % of the lines`);
process.exit(faults.length > 0 ? 1 : 0);
