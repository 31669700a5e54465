// What the scripts share: paths, staleness, running commands, installing what is missing.
import { execFileSync, spawn, spawnSync } from "node:child_process";
import { createHash } from "node:crypto";
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from "node:fs";
import { delimiter, dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

export const root = dirname(dirname(fileURLToPath(import.meta.url)));

/** Newest change below some files and folders, in milliseconds. */
export function newest(paths) {
  let latest = 0;
  const look = (path) => {
    const s = statSync(path, { throwIfNoEntry: false });
    if (!s) return;
    if (s.isDirectory()) for (const name of readdirSync(path)) look(join(path, name));
    else latest = Math.max(latest, s.mtimeMs);
  };
  for (const p of paths) look(join(root, p));
  return latest;
}

/** Digest of the contents below some files and folders; tests, and what is written from the sources, are left out. */
export function digest(paths, withTests = false) {
  const hash = createHash("sha256");
  const look = (path) => {
    const s = statSync(path, { throwIfNoEntry: false });
    if (!s) return;
    if (s.isDirectory()) for (const name of readdirSync(path).sort()) look(join(path, name));
    else if (!path.endsWith(".gen.d.ts") && (withTests || !path.includes(".test.")))
      hash.update(path.slice(root.length)).update(readFileSync(path));
  };
  for (const p of paths) look(join(root, p));
  return hash.digest("hex");
}

/** The Node header folder where this Node ships one, so that native packages compile without a download. */
function nodeHeaders() {
  const prefix = dirname(dirname(process.execPath));
  return existsSync(join(prefix, "include/node/node.h")) ? prefix : undefined;
}

export function run(command, args, options = {}) {
  const result = spawnSync(command, args, {
    cwd: root,
    stdio: "inherit",
    ...options,
    env: { ...process.env, NEXT_TELEMETRY_DISABLED: "1", ...options.env },
  });
  if (result.status !== 0) {
    console.error(`${command} ${args.join(" ")} failed`);
    process.exit(result.status ?? 1);
  }
}

/** Runs a command to its end beside whatever else goes on, and gives whether it went well and what it said. */
export const heard = ([command, ...args]) =>
  new Promise((resolve) => {
    const child = spawn(command, args, { cwd: root, env: { ...process.env, NEXT_TELEMETRY_DISABLED: "1" } });
    let said = "";
    const hear = (chunk) => {
      said += chunk;
    };
    child.stdout.on("data", hear);
    child.stderr.on("data", hear);
    child.once("error", (error) => resolve({ ok: false, said: String(error) }));
    child.once("close", (code) => resolve({ ok: code === 0, said }));
  });

/** Runs a tool from node_modules/.bin. */
export const tool = (name, args, options) => run(join(root, "node_modules/.bin", name), args, options);

/** Whether a program is found on the path. */
const onPath = (name) =>
  [...(process.env.PATH ?? "").split(delimiter), "/usr/sbin"].some((dir) => existsSync(join(dir, name)));

/** Installs Debian packages, as root or through sudo. */
function debian(why, packages) {
  console.log(why);
  const sudo = process.getuid?.() === 0 ? [] : ["sudo"];
  const apt = (...args) => {
    const [command, ...rest] = [...sudo, "apt-get", ...args];
    run(command, rest, { env: { DEBIAN_FRONTEND: "noninteractive" } });
  };
  apt("update");
  apt("install", "-y", "--no-install-recommends", ...packages);
}

/** What sqlite3 is compiled with: program, and the Debian package that brings it. */
const COMPILERS = { python3: "python3", make: "make", "g++": "g++" };

/** Installs the packages of the lock file unless they are there already. */
export function install() {
  const stamp = join(root, "node_modules/.trialmoor-installed");
  const wanted = digest(["package-lock.json"]);
  if (existsSync(stamp) && readFileSync(stamp, "utf8") === wanted) return;
  console.log("Installing packages; sqlite3 is compiled on the way, which takes a few minutes the first time.");
  const missing = Object.keys(COMPILERS).filter((name) => !onPath(name));
  if (missing.length > 0)
    debian(
      `Installing ${missing.join(", ")}, which sqlite3 is compiled with.`,
      missing.map((name) => COMPILERS[name]),
    );
  const headers = nodeHeaders();
  run("npm", ["ci", "--no-audit", "--no-fund"], { env: headers ? { npm_config_nodedir: headers } : {} });
  writeFileSync(stamp, wanted);
}

/** Installs Debian's chromium where no browser is found. */
export function browser() {
  if (existsSync("/usr/bin/chromium")) return;
  debian("Installing chromium for the browser tests.", ["chromium"]);
}

/** Programs that tests call, for printed pages, certificates, scripts and rigs, and the package that brings each. */
const CALLED = {
  pdfinfo: "poppler-utils",
  pdftotext: "poppler-utils",
  pdftoppm: "poppler-utils",
  openssl: "openssl",
  curl: "curl",
  mosquitto: "mosquitto",
};

/** Installs what tests call and is not there. */
export function called() {
  const missing = Object.keys(CALLED).filter((name) => !onPath(name));
  const packages = [...new Set(missing.map((name) => CALLED[name]))];
  if (packages.length > 0) debian(`Installing ${packages.join(", ")} for the tests.`, packages);
}

/** Bundles the headless command, the server and its worker when their sources are newer. */
export async function bundle() {
  const built = newest(["dist/headless.mjs"]);
  if (
    built > newest(["src/cli", "src/core", "src/server", "scripts/lib.mjs", "tsconfig.json"]) &&
    existsSync(join(root, "dist/rig.mjs"))
  )
    return;
  const { build } = await import("esbuild");
  mkdirSync(join(root, "dist"), { recursive: true });
  await build({
    entryPoints: {
      headless: join(root, "src/cli/start.ts"),
      worker: join(root, "src/server/worker.ts"),
      apart: join(root, "src/server/apart/child.ts"),
      serve: join(root, "src/server/serve.ts"),
      passphrase: join(root, "src/server/access/set-passphrase.ts"),
      rig: join(root, "src/cli/rig/start.ts"),
    },
    // The server shares these with the application's own bundles.
    external: ["next", "sequelize", "sqlite3", "umzug", "piscina", "pino", "mqtt", "aedes"],
    outdir: join(root, "dist"),
    outExtension: { ".js": ".mjs" },
    bundle: true,
    platform: "node",
    target: "node20",
    format: "esm",
    minify: true,
    keepNames: true,
    legalComments: "none",
    logLevel: "warning",
    banner: { js: 'import{createRequire as __cr}from"node:module";const require=__cr(import.meta.url);' },
  });
}

/** Tells browsers that read it (explicit compile hints) to compile all of a script's functions as it comes. */
const HINT = "//# allFunctionsCalledOnLoad\n";

/**
 * Most of a first visit is spent on compiling functions one by one, on the page's own thread, as they are first
 * called. With the hint they are compiled beside it while scripts still come.
 */
function hintScripts() {
  const chunks = join(root, ".next/static/chunks");
  for (const name of readdirSync(chunks)) {
    const path = join(chunks, name);
    const script = name.endsWith(".js") ? readFileSync(path, "utf8") : HINT;
    if (!script.startsWith(HINT)) writeFileSync(path, HINT + script);
  }
}

/** Builds the application unless the sources are those of the last build. */
export async function buildApp() {
  await bundle();
  const stamp = join(root, ".next/trialmoor-built");
  const wanted = digest(["src", "public", "package-lock.json", "next.config.ts", "tsconfig.json"]);
  if (existsSync(stamp) && readFileSync(stamp, "utf8") === wanted) return;
  console.log("Building the application.");
  const { ok, said } = await heard([join(root, "node_modules/.bin/next"), "build"]);
  if (!ok) {
    console.error(said);
    process.exit(1);
  }
  hintScripts();
  writeFileSync(stamp, wanted);
}

export const silent = (command, args) => execFileSync(command, args, { cwd: root, encoding: "utf8" });

/** Asks a started server once for its pages, so that the first person does not wait while it reads its own code. */
export async function warm(base) {
  const listed = await fetch(`${base}/api/studies`);
  // Open to a network: the server does not know who asks here.
  if (listed.status === 401 || listed.status === 403) return;
  const [study] = await listed.json();
  const stations = study
    ? ["question", "plan", "trials", "model", "setpoint", "report"].map((s) => `/studies/${study.id}/${s}`)
    : [];
  for (const path of ["/", ...stations]) await (await fetch(base + path)).text();
}
