import { Command, CommanderError, Option } from "commander";
import { counted, messageText } from "@/core/findings";
import {
  importEdits,
  ledgerCsv,
  previewImport,
  startFrom,
  startSheet,
  writeStudyFile,
  writeWorkbook,
} from "@/core/formats";
import { ask, finish, type OpenQuestion, openQuestions, type QuestionId } from "@/core/questions";
import { blankStudy, reviseStudy, type Study, StudyError, studyFaults } from "@/core/study";
import { addFlags, countFrom, flagName } from "./flags";
import { readJson, readRoles, readSheetFile, readStudy, titleOf, withRoles, writeOut, writeStudy } from "./input";
import type { RunOptions } from "./run-trials";

/** A call that is wrong in itself: exit code 2. */
export class WrongCall extends Error {}

const PROGRAM = "npm run --silent headless --";

/** JSON at full precision; what is undefined or infinite is null. */
const print = (json: boolean | undefined, value: unknown, text: () => string): void => {
  process.stdout.write(`${json ? JSON.stringify(value) : text()}\n`);
};

/** The call of a question on a shipped example, as it is typed; on a study of one's own where others come before it. */
export function exampleCall(question: OpenQuestion): string {
  const { study, input, after } = question.example;
  const file = after ? "my-study.trialmoor.json" : `examples/${study}.trialmoor.json`;
  const { name, ...rest } = input as Record<string, unknown>;
  const first = question.id === "rig" ? [String(name)] : [];
  const flags = Object.entries(question.id === "rig" ? rest : (input as Record<string, unknown>)).map(([key, v]) =>
    typeof v === "boolean"
      ? `--${v ? "" : "no-"}${flagName(key)}`
      : `--${flagName(key)} ${typeof v === "object" ? `'${JSON.stringify(v)}'` : v}`,
  );
  return [PROGRAM, question.id, ...first, file, ...flags].join(" ");
}

/** Adds a question to the command: its flags, its answer as text or JSON, and taking the answer up. */
function addQuestion(program: Command, question: OpenQuestion): void {
  const { takeUp } = question;
  const command = program
    .command(question.id)
    .description(question.summary)
    .addHelpText("after", `\nExample:\n  ${exampleCall(question)}`);
  // A rig is named before its study, as a machine before its work.
  const named = question.id === "rig";
  if (named) command.argument("<name>", "the virtual process");
  command.argument("<study>", "study file, or - for standard input").option("--json", "full figures as JSON");
  const inputOf = addFlags(command, question, named ? ["name"] : []);
  if (takeUp && !takeUp.always) command.option(`--${takeUp.option}`, takeUp.summary);
  if (takeUp) command.option("--out <file>", "write the study elsewhere, not in place");
  command.action(async (...args: unknown[]) => {
    const [path, values] = (named ? args.slice(1) : args) as [string, Record<string, unknown>];
    const study = readStudy(path);
    const input = { ...inputOf(study, values), ...(named ? { name: args[0] } : {}) };
    const missing = question.missing?.(input as never);
    if (missing !== undefined) throw new WrongCall(messageText("errors", missing));
    const answer = finish(ask(question.id as QuestionId, study, input));
    const out = values.out as string | undefined;
    if (takeUp && (takeUp.always || values[takeUp.option] || out)) {
      writeStudy(reviseStudy(study, takeUp.edits(study, input as never, answer)), path, out);
      if (path === "-" && !out) return;
    }
    const { textOf } = await import("./text");
    print(values.json === true, answer, () => textOf(question.id as QuestionId, study, answer));
  });
}

interface Common {
  json?: boolean;
  out?: string;
}

interface ImportOptions extends Common {
  roles?: string;
  title?: string;
  dryRun?: boolean;
  rowsAreRepeats?: boolean;
  sheet?: string;
}

/** A study made from a sheet: what each column is taken for is told, and written where it was asked for. */
async function importStart(path: string, o: ImportOptions): Promise<void> {
  if (o.out === undefined && !o.dryRun)
    throw new WrongCall("A study made from a sheet needs --out and a file for it (or --dry-run to look at it).");
  const { text, remarks } = await readSheetFile(path, o.sheet);
  const sheet = startSheet(text);
  const columns = o.roles === undefined ? sheet.columns : withRoles(sheet.columns, readRoles(o.roles));
  const blank = blankStudy(o.title ?? titleOf(path));
  const start = startFrom(blank, { ...sheet, columns }, "From a sheet", { rowsAreRepeats: o.rowsAreRepeats === true });
  if (o.out !== undefined && !o.dryRun) writeStudy(reviseStudy(blank, start.edits), path, o.out);
  const { factors, responses, trials, withResults, problems } = start;
  const again = o.rowsAreRepeats ? undefined : sheet.again;
  const told = columns.map(({ heading, name, unit, role, repeat, step, numbers, words, why }) => ({
    heading,
    name,
    unit,
    role,
    repeat,
    ...(step === undefined ? {} : { step }),
    ...(role === "factor" && numbers ? { low: numbers[0], high: numbers[numbers.length - 1] } : {}),
    ...(role === "factor" && words ? { levels: words } : {}),
    ...(why ? { why: messageText("columns", why) } : {}),
  }));
  const said = problems.map((p) => messageText("rows", p.said));
  print(o.json, { columns: told, factors, responses, trials, withResults, remarks, problems: said }, () =>
    [
      ...remarks,
      ...told.map(
        (c) =>
          `${c.heading || "(no heading)"}: ${c.role}${c.repeat > 0 ? `, repeat ${c.repeat}` : ""}${c.why ? ` (${c.why.replace(/\.$/, "")})` : ""}`,
      ),
      `${counted(factors, "factor")}, ${counted(responses, "response")}, ${counted(trials, "trial")}, ${withResults} with results`,
      ...(again
        ? [
            `${again.rows} rows have ${counted(again.trials, "trial number")}; take them as repeats with --rows-are-repeats`,
          ]
        : []),
      ...said,
    ].join("\n"),
  );
}

function addFiles(program: Command): void {
  const verb = (name: string, description: string, example: string): Command =>
    program.command(name).description(description).addHelpText("after", `\nExample:\n  ${PROGRAM} ${example}`);

  verb("validate", "Every fault of a study file at once", "validate examples/wool-scouring.trialmoor.json")
    .argument("<study>", "study file, or - for standard input")
    .option("--json", "as JSON")
    .action((path: string, o: Common) => {
      const faults = studyFaults(readJson(path));
      const ok = faults.length === 0;
      print(o.json, { ok, faults }, () =>
        ok ? "The study file is whole." : faults.map((f) => `${f.path.join(".") || "file"}: ${f.message}`).join("\n"),
      );
      if (!ok) process.exitCode = 1;
    });

  verb(
    "import",
    "Results, as-run settings and covariates of a sheet into a study",
    "import my-study.trialmoor.json results.csv --dry-run",
  )
    .argument("<study>", "study file; without a sheet behind it, the sheet that a study is made from")
    .argument("[sheet]", "CSV or tab-separated file, xlsx workbook, or - for CSV on standard input")
    .option(
      "--roles <file>",
      "a study from a sheet: JSON of what columns are, by heading, where they are guessed wrong",
    )
    .option("--title <text>", "a study from a sheet: its title; the name of the sheet unless said")
    .option("--sheet <name>", "sheet of the workbook; left out, Ledger or the first that holds rows")
    .option("--dry-run", "say what would change and write nothing")
    .option("--rows-are-repeats", "several rows of one trial are its repeats")
    .option("--json", "as JSON")
    .option("--out <file>", "write the study elsewhere, not in place")
    .action(async (path: string, sheet: string | undefined, o: ImportOptions) => {
      if (sheet === undefined) return importStart(path, o);
      if (o.roles !== undefined || o.title !== undefined)
        throw new WrongCall("--roles and --title are for a study made from a sheet: leave the study file out.");
      const study = readStudy(path);
      const { text, remarks } = await readSheetFile(sheet, o.sheet);
      const preview = previewImport(study, text, { rowsAreRepeats: o.rowsAreRepeats === true });
      if (!o.dryRun) writeStudy(reviseStudy(study, importEdits(study, preview)), path, o.out);
      const { changes, untaken, repeats, again, problems } = preview;
      print(
        o.json,
        { changes, untaken, repeats, again, remarks, problems: problems.map((p) => messageText("rows", p.said)) },
        () =>
          [
            ...remarks,
            `${counted(changes.length, "value")} ${o.dryRun ? "would be taken" : "taken"}, matched by ${preview.by}`,
            ...repeats.map(
              (r) =>
                `${r.columns.length} columns read as repeats of ${study.responses.find((x) => x.id === r.response)?.name ?? r.response}`,
            ),
            ...(again > 0 && !o.rowsAreRepeats
              ? [
                  `${again} ${again === 1 ? "row is" : "rows are"} left out as repeats; take them with --rows-are-repeats`,
                ]
              : []),
            ...untaken.map((u) => `left aside: ${u.column} (${u.why})`),
            ...problems.map((p) => messageText("rows", p.said)),
          ].join("\n"),
      );
    });

  verb(
    "export",
    "The ledger as CSV, the whole study as a workbook, or the study file",
    "export examples/wool-scouring.trialmoor.json --format csv --out ledger.csv",
  )
    .argument("<study>", "study file, or - for standard input")
    .addOption(
      new Option("--format <format>", "what is written").choices(["csv", "xlsx", "json"]).makeOptionMandatory(),
    )
    .option("--out <file>", "a file; standard output unless said")
    .action(async (path: string, o: Common & { format: string }) => {
      const study: Study = readStudy(path);
      const formats: Record<string, () => string | Promise<Uint8Array>> = {
        csv: () => ledgerCsv(study),
        xlsx: () => writeWorkbook(study),
        json: () => writeStudyFile(study),
      };
      writeOut(await formats[o.format](), o.out ?? "-");
    });

  verb(
    "run",
    "Each waiting trial through a program of your own",
    "run my-study.trialmoor.json --program 'python3 simulate.py' --at-once 2",
  )
    .argument("<study>", "study file")
    .requiredOption(
      "--program <command>",
      "run once a trial: JSON on its standard input, JSON or name=value lines on its standard output",
    )
    .option("--at-once <n>", "trials at the same time", countFrom(1, 64), 1)
    .option("--timeout <s>", "seconds after which a call counts as failed", countFrom(1, 86_400), 60)
    .option("--tries <n>", "calls before a trial counts as failed", countFrom(1, 20), 1)
    .option("--json", "as JSON")
    .option("--out <file>", "write the study elsewhere, not in place")
    .action(async (path: string, o: Common & Omit<RunOptions, "out">) => {
      if (path === "-" || o.out === "-")
        throw new WrongCall("Trials are run from a study file, not from standard input.");
      const { runTrials, reportText } = await import("./run-trials");
      const stopping = new AbortController();
      const stop = (): void => stopping.abort();
      process.once("SIGINT", stop).once("SIGTERM", stop);
      const tell = (line: string): void => void process.stderr.write(`${line}\n`);
      // Whoever looks on sees how it goes; a script reads the report.
      const report = await runTrials(path, o, process.stderr.isTTY ? tell : () => undefined, stopping.signal);
      print(o.json, report, () => reportText(report));
    });

  verb("example", "The whole job on a shipped example, step by step", "example wool-scouring")
    .argument("[name]", "", "wool-scouring")
    .option("--json", "as JSON")
    .option("--seed <n>", "seed of the search and of the virtual process", (t) => Number.parseInt(t, 10))
    .action(async (name: string, o: Common & { seed?: number }) => {
      const { tellExample } = await import("./example");
      const { json, text } = tellExample(name, o.seed ?? 1);
      print(o.json, json, () => text);
    });
}

/** The command with every question of the table. */
export function headless(): Command {
  const program = new Command("headless")
    .description("Plans, appraises, fits and optimises a study file without a browser.")
    .exitOverride()
    .configureOutput({ writeErr: (text) => process.stderr.write(text) })
    .showHelpAfterError(false);
  for (const question of openQuestions()) addQuestion(program, question);
  addFiles(program);
  return program;
}

/** What a call ends with that threw: an exit code, and one line where nothing was said yet. */
export function endOf(error: unknown): { exitCode: number; line?: string } {
  if (error instanceof StudyError)
    return { exitCode: 1, line: JSON.stringify({ code: error.code, message: error.message, path: error.path }) };
  if (error instanceof WrongCall) return { exitCode: 2, line: error.message };
  if (error instanceof CommanderError) return { exitCode: error.exitCode === 0 ? 0 : 2 };
  // A fault of this program: named in one line, never a page of its insides.
  const reason = error instanceof Error ? `${error.name}: ${error.message}` : String(error);
  const message = `Something went wrong in here (${reason.split("\n")[0]}); the study is as it was. Please report it with the call.`;
  return { exitCode: 3, line: JSON.stringify({ code: "internal", message, path: [] }) };
}

/** Runs a call; what it throws becomes an exit code and one line. */
export async function main(argv: readonly string[]): Promise<void> {
  try {
    await headless().parseAsync([...argv]);
  } catch (error) {
    const { exitCode, line } = endOf(error);
    process.exitCode = exitCode;
    if (line !== undefined) process.stderr.write(`${line}\n`);
  }
}
