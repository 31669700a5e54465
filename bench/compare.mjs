// node bench/compare.mjs [COMMIT] [ROUNDS]: the cases of bench/cases.ts against those of a commit before (the last one
// unless said), both on this machine in turn, as ratios of medians. Over 1.10 is a fault.
import { execFileSync } from "node:child_process";
import { cpSync, existsSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { buildSync } from "esbuild";

const [commit = "HEAD~1", rounds = "5"] = process.argv.slice(2);
const root = join(import.meta.dirname, "..");
const before = mkdtempSync(join(tmpdir(), "trialmoor-before-"));
try {
  const archive = execFileSync("git", ["archive", commit, "src", "tsconfig.json"], { cwd: root, maxBuffer: 1 << 28 });
  execFileSync("tar", ["-x", "-C", before], { input: archive });
  symlinkSync(join(root, "node_modules"), join(before, "node_modules"));
  for (const file of ["bench/cases.ts", "bench/memo.ts"]) cpSync(join(root, file), join(before, file));
  // Commits of before 2026-11-25 kept what they kept in modules of their own.
  if (!existsSync(join(before, "src/core/study/memo.ts")))
    writeFileSync(join(before, "bench/memo.ts"), "export const memo = undefined;\n");
  const bundles = [before, root].map((folder, i) => {
    const outfile = join(before, `cases-${i}.cjs`);
    buildSync({
      entryPoints: [join(folder, "bench/cases.ts")],
      bundle: true,
      platform: "node",
      format: "cjs",
      outfile,
      logLevel: "error",
    });
    return outfile;
  });
  const taken = [[], []];
  for (let r = 0; r < Number(rounds); r++)
    // Each goes first in turn: what runs second finds a warmer machine.
    for (const i of r % 2 ? [1, 0] : [0, 1])
      taken[i].push(JSON.parse(execFileSync(process.execPath, [bundles[i]], { cwd: root, encoding: "utf8" })));
  const median = (values) => values.sort((a, b) => a - b)[Math.floor(values.length / 2)];
  console.log(`against ${commit}, medians of ${rounds} rounds in turn`);
  let slower = 0;
  for (const name of Object.keys(taken[1][0])) {
    const [was, is] = taken.map((runs) => median(runs.map((r) => r[name])));
    if (is / was > 1.1) slower++;
    console.log(
      `${name.padEnd(50)} ${was.toFixed(2).padStart(9)} ms ${is.toFixed(2).padStart(9)} ms   × ${(is / was).toFixed(2)}`,
    );
  }
  if (slower > 0) console.log(`${slower} slower by more than a tenth`);
} finally {
  rmSync(before, { recursive: true, force: true });
}
