// Checks the habits of the house that no formatter knows: nothing is remembered at module level in the core, lines stay
// readable, what stands at a door of it is told, and tests keep their share of the lines. Each fault is said by its
// place.
import { existsSync, readdirSync, readFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { parseSync } from "@swc/core";
import { root } from "./lib.mjs";

const WIDTH = 120;
/** A text in quotes, in backticks or in a pattern. */
const SENTENCE = /"(?:[^"\\]|\\.)*"|`[^`]*`?|\/(?:[^/\\\n]|\\.)+\/[gimsuy]*[,.);]/g;
/** Tests, of all lines of code: the least and the most. */
const TESTS = [0.25, 0.33];

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
/** A shape drawn by hand: stations describe charts, and the marks draw them. */
const SHAPE = /<(path|rect|line|circle)\b/;
/** A colour that is no name of the theme. */
const COLOUR = /["'` ]#(?:[0-9a-f]{3}){1,2}["'`; ]/i;
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

// A stranger finds the way from room to room.
for (const room of readdirSync(join(root, "src/core"), { withFileTypes: true }).filter((d) => d.isDirectory()))
  if (!existsSync(join(root, "src/core", room.name, "README.md")))
    faults.push(`src/core/${room.name} has no README.md that says in a few lines what it is for`);

for (const file of files.filter((f) => /^(src|scripts|bench)\/.*\.(tsx?|mjs)$/.test(f))) {
  const source = readFileSync(join(root, file), "utf8");
  const lines = source.split("\n");
  lines.forEach((line, i) => {
    if (file.startsWith("src/stations/") && !isTest(file) && SHAPE.test(line))
      faults.push(`${file}:${i + 1} draws by hand; describe it by the marks of src/ui/charts/marks`);
    if (/^src\/(stations|ui)\/(?!theme\/).*\.tsx?$/.test(file) && !isTest(file) && COLOUR.test(line))
      faults.push(`${file}:${i + 1} has a colour of its own; name it in src/ui/theme/theme.ts`);
    // Sentences stay whole, so that they are found by what they say; all else is broken at the width.
    if (line.replace(SENTENCE, "").length > WIDTH) faults.push(`${file}:${i + 1} is ${line.length} characters wide`);
  });
  if (isTest(file) || !file.startsWith("src/core/")) continue;
  // Spans count bytes from 1.
  const bytes = Buffer.from(source);
  const ast = parseSync(source, { syntax: "typescript", tsx: file.endsWith("x"), target: "esnext" });
  const lineOf = (offset) =>
    bytes
      .subarray(0, offset - 1)
      .toString("utf8")
      .split("\n").length;
  moduleState(ast, (span) => `${file}:${lineOf(span.start)}`);
}

/** Where a module exports a name: the file and line of its declaration. */
function declared(file, name) {
  const source = readFileSync(join(root, file), "utf8");
  const lines = source.split("\n");
  const line = lines.findIndex((l) =>
    new RegExp(`^(?:export )?(?:const|(?:async )?function\\*?|interface|type|class) ${name}\\b`).test(l),
  );
  if (line >= 0) return { file, lines, line };
  const from = exportsOf(file, source).find((e) => e.name === name);
  return from && declared(from.file, from.own);
}

/** Names that a module passes on from others. */
function exportsOf(file, source = readFileSync(join(root, file), "utf8")) {
  return [...source.matchAll(/^export (?:type )?\{([^}]*)\} from "([^"]+)";/gm)].flatMap(([, names, path]) => {
    const base = join(dirname(file), path);
    return names
      .split(",")
      .map((n) => n.trim().replace(/^type /, ""))
      .filter(Boolean)
      .map((n) => {
        const [own, name = own] = n.split(" as ");
        return { name, own, file: existsSync(join(root, `${base}.ts`)) ? `${base}.ts` : `${base}/index.ts` };
      });
  });
}

/** Whoever may read how a factor stands: all others ask `study/roles.ts`. */
const READ_ROLES = [
  "src/core/study/roles.ts",
  "src/core/study/schema.ts",
  "src/core/study/validate.ts",
  "src/core/follow-up/carry.ts",
  "src/stations/question/factor-row.tsx",
  "src/stations/question/factor-menu.tsx",
  "src/stations/report/decision-section.tsx",
  "src/stations/report/question-section.tsx",
];
for (const file of files.filter((f) => /^src\/(?!core\/(messages|words)\/)/.test(f) && !isTest(f)))
  if (
    !READ_ROLES.includes(file) &&
    /\b\w+\??\.(retired|tolerance)\b|\.change [!=]== /.test(readFileSync(join(root, file), "utf8"))
  )
    faults.push(`${file} reads how a factor stands; study/roles.ts says it`);

// What stands at a door of the core says what it is.
for (const door of files.filter((f) => /^src\/core\/[^/]+\/index\.ts$/.test(f)))
  for (const { name, own, file } of exportsOf(door)) {
    const found = declared(file, own);
    const above = found?.lines.slice(0, found.line).findLast((l) => l.trim() !== "" && !l.startsWith("//"));
    if (!above?.trimEnd().endsWith("*/")) faults.push(`${door}: “${name}” stands at a door without a word about it`);
  }

const count = (files) => files.reduce((t, f) => t + readFileSync(join(root, f), "utf8").split("\n").length - 1, 0);
const share = count(files.filter(isTest)) / count(files);
if (share < TESTS[0] || share > TESTS[1])
  faults.push(
    `Tests are ${(100 * share).toFixed(1)} % of the lines; they stay between ${TESTS.map((t) => 100 * t).join(" and ")} %`,
  );

for (const fault of faults) console.error(fault);
console.log(`${files.length} files; tests are ${(100 * share).toFixed(1)} % of the lines`);
process.exit(faults.length > 0 ? 1 : 0);
