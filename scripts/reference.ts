/**
 * Writes the parts of docs/ that say what the doors take, between their markers: the verbs of the headless command and
 * the operations over HTTP. With --check it only says whether they are current.
 */
import { readFileSync, writeFileSync } from "node:fs";
import { headless } from "../src/cli/main";
import { openApi } from "../src/server/openapi";
import { operations as table } from "../src/server/operations";

interface Operation {
  operationId: string;
  summary: string;
}

/** The help of each verb, as it is printed. */
function verbs(): string {
  return headless()
    .commands.map((command) => {
      let help = "";
      command.configureOutput({
        writeOut: (text) => {
          help += text;
        },
        getOutHelpWidth: () => 110,
      });
      command.outputHelp();
      // Each is named in its heading; help for help says nothing.
      return `### ${command.name()}\n\n\`\`\`\n${help.trim().replace(/^ +-h, --help.*\n/m, "")}\n\`\`\`\n`;
    })
    .join("\n");
}

/** One row for each operation. */
function operations(): string {
  const paths = openApi().paths as Record<string, Record<string, Operation>>;
  const rows = Object.entries(paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(
      ([method, o]) => `| \`${method.toUpperCase()} ${path}\` | \`${o.operationId}\` | ${o.summary} |`,
    ),
  );
  return ["| request | operation | does |", "| --- | --- | --- |", ...rows, ""].join("\n");
}

/** What a key of a bench reaches: one row for each address and method. */
function benchAddresses(): string {
  const rows = table
    .filter((o) => o.reach === "bench")
    .map((o) => `| \`${o.method.toUpperCase()} ${o.path}\` | ${o.summary} |`);
  const page = "| `GET /studies/{id}/bench` | The page itself |";
  return ["| request | does |", "| --- | --- |", page, ...rows, ""].join("\n");
}

const parts: [file: string, name: string, text: string][] = [
  ["docs/headless.md", "verbs", verbs()],
  ["docs/http.md", "operations", operations()],
  ["docs/security.md", "addresses of a bench", benchAddresses()],
];
for (const [file, name, text] of parts) {
  const now = readFileSync(file, "utf8");
  const [open, close] = [`<!-- ${name}: written by scripts/reference.ts -->`, `<!-- end of ${name} -->`];
  const [before, rest] = now.split(open);
  const after = rest?.split(close)[1];
  if (after === undefined) throw new Error(`${file} has no place for ${name}`);
  const next = `${before}${open}\n\n${text}\n${close}${after}`;
  if (next === now) continue;
  if (process.argv.includes("--check")) {
    console.error(`${file} does not say what the doors take; run: npx tsx scripts/reference.ts`);
    process.exit(1);
  }
  writeFileSync(file, next);
}
