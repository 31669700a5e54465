import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { figure, messageText } from "@/core/findings";
import { readStudyFile } from "@/core/formats";
import { storedModel } from "@/core/model";
import { rigsFor } from "@/core/operator";
import { adoptPlan, followUp, nextWaves } from "@/core/plans";
import { ask, finish, rigEdits } from "@/core/questions";
import { confirmation } from "@/core/setpoint";
import { reviseStudy, StudyError } from "@/core/study";
import { appraisalText, fitText, setpointText } from "./text";

/** The whole job on a shipped example, step by step: question, plan, trials, models, setpoint. */
export function tellExample(name: string, seed: number): { json: unknown; text: string } {
  const folder = process.env.TRIALMOOR_EXAMPLES ?? join(process.cwd(), "examples");
  const names = readdirSync(folder)
    .filter((f) => f.endsWith(".trialmoor.json"))
    .map((f) => f.replace(".trialmoor.json", ""));
  if (!names.includes(name)) throw new StudyError("unknown-example", { name, examples: names }, ["name"]);
  const study = readStudyFile(readFileSync(join(folder, `${name}.trialmoor.json`), "utf8"));
  const appraisal = finish(ask("appraise", study, {}));
  const fits = study.responses
    .filter((r) => storedModel(study, r.id))
    .map((r) => finish(ask("fit", study, { response: r.id })));
  const setpoint = finish(ask("setpoint", study, { seed }));
  const next = nextWaves(study).filter((o) => o.why);
  // The setpoint found is run on the virtual process it belongs to, and judged beside its prediction.
  const rig = rigsFor(study)[0];
  const chosen = { ...study, setpoint: { settings: setpoint.settable.settings, held: [] } };
  const planned = adoptPlan(chosen, followUp(chosen, { kind: "confirm", trials: 4, seed }).plan, "confirm");
  const verdict = rig
    ? confirmation(reviseStudy(planned, rigEdits(planned, finish(ask("rig", planned, { name: rig.id, seed })))))
    : undefined;
  const text = [
    study.title,
    `\n1. Question: ${study.factors.length} factors, ${study.responses.length} responses`,
    ...study.factors.map(
      (f) =>
        `   ${f.letter} ${f.name}: ${f.kind === "continuous" ? `${f.low}–${f.high} ${f.unit ?? ""}` : f.kind === "discrete" ? f.values.join(", ") : f.levels.join(", ")}`,
    ),
    ...study.responses.map((r) => `   ${r.name}: ${r.goal.aim}`),
    `\n2. Plan: ${study.waves.map((w) => `${w.name} (${w.plan.family})`).join(", ")}`,
    appraisalText(study, appraisal),
    `\n3. Trials: ${study.trials.filter((t) => t.state === "done").length} of ${study.trials.length} run`,
    "\n4. Models",
    ...fits.map((f) => `\n${fitText(study, f)}`),
    "\n5. Setpoint",
    setpointText(study, setpoint),
    ...(next.length > 0
      ? [
          "\n6. What the study would need next",
          ...next.map((o) => `   ${messageText("waveNames", o.name)}: ${o.why ? messageText("whys", o.why) : ""}`),
        ]
      : []),
    ...(verdict
      ? [
          `\n7. Confirmation: ${verdict.trials.length} trials at the best settable point ${verdict.agrees ? "agree" : "do not agree"}`,
          ...verdict.verdicts.map(
            (v) =>
              `   ${v.response}: predicted ${figure(v.predicted, 4)}, interval ${v.interval?.map((x) => figure(x, 4)).join(" to ") ?? "none"}, mean ${figure(v.mean, 4)}`,
          ),
          ...verdict.suspects.map((x) => `   suspect: ${messageText("suspects", x)}`),
        ]
      : []),
  ].join("\n");
  return {
    json: { title: study.title, appraisal, fits, setpoint, next, ...(verdict ? { confirmation: verdict } : {}) },
    text,
  };
}
