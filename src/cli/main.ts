import { Command, CommanderError, InvalidArgumentError } from "commander";
import {
  type Criterion,
  type Direction,
  type FollowKind,
  type Hierarchy,
  type PlanOptions,
  type Study,
  StudyError,
  type Transform,
} from "@/core";
import { readSettings, readStudy, readTerms, writeStudy } from "./input";

/** A call that is wrong in itself: exit code 2. */
class WrongCall extends Error {}

const number = (text: string): number => {
  const v = Number(text);
  if (text.trim() === "" || !Number.isFinite(v)) throw new InvalidArgumentError("give a number");
  return v;
};
const whole = (text: string): number => {
  const v = number(text);
  if (!Number.isInteger(v) || v < 0) throw new InvalidArgumentError("give a whole number");
  return v;
};
const oneOf =
  <T extends string>(...choices: T[]) =>
  (text: string): T => {
    if (!choices.includes(text as T)) throw new InvalidArgumentError(`give one of ${choices.join(", ")}`);
    return text as T;
  };
const transform = (text: string): Transform => {
  const names = ["none", "log", "sqrt", "inverse", "logit", "asin-sqrt"] as const;
  const named = names.find((n) => n === text);
  if (named) return named;
  const power = /^power[:=](.+)$/.exec(text);
  if (power) return { power: number(power[1]) };
  throw new InvalidArgumentError(`give one of ${names.join(", ")} or power:0.3`);
};

/** JSON at full precision; what is undefined or infinite is null. */
const print = (json: boolean | undefined, value: unknown, text: () => string): void => {
  process.stdout.write(`${json ? JSON.stringify(value) : text()}\n`);
};

const axial = (text: string): string | number =>
  Number.isFinite(Number(text)) && text.trim() !== "" ? Number(text) : text;

interface Common {
  json?: boolean;
  terms?: string;
  seed?: number;
}

const program = new Command("headless")
  .description("Plans, appraises, fits and optimises a study file without a browser.")
  .exitOverride()
  .configureOutput({ writeErr: (text) => process.stderr.write(text) })
  .showHelpAfterError(false);

const verb = (name: string, description: string): Command =>
  program.command(name).description(description).option("--json", "full figures as JSON");

verb("plan", "make a plan")
  .argument("<study>", "study file, or - for standard input")
  .requiredOption(
    "--family <family>",
    "factorial, fraction, plackett-burman, composite, box-behnken, definitive, array, optimal or least-aliasing",
  )
  .option("--trials <n>", "base trials", whole)
  .option("--replicates <n>", "copies in all", whole)
  .option("--centre <n>", "centre points in all", whole)
  .option("--blocks <n>", "blocks, each a wave", whole)
  .option("--generators <text>", 'own generators, such as "E=ABC,F=-BCD"')
  .option("--axial <distance>", "rotatable, spherical, face, orthogonal-blocks, or a number", axial)
  .option("--shrink", "composite: drawn in until its axial points stand at low and high")
  .option("--levels <text>", 'levels of continuous factors, such as "3" or "temp=3,dose=2"')
  .option("--fold-over", "Plackett–Burman: every run also with all signs turned")
  .option("--terms <set>", "terms to build or appraise for")
  .option("--criterion <letter>", "D, A or I", oneOf<"D" | "A" | "I">("D", "A", "I"))
  .option("--possible <set>", "terms that may be there unasked")
  .option("--keep-efficiency <share>", "least aliasing: share of the best D-efficiency to keep", number)
  .option("--starts <n>", "random starts of a search", whole)
  .option("--keep", "count the study's own trials as runs already made")
  .option("--seed <n>", "seed of the run order", whole)
  .option("--standard-order", "do not randomise")
  .option("--no-snap", "do not round to settable steps")
  .option("--adopt", "add the wave to the study file")
  .option("--out <file>", "write elsewhere")
  .action(
    async (
      path: string,
      o: Common & {
        family: string;
        trials?: number;
        replicates?: number;
        centre?: number;
        blocks?: number;
        generators?: string;
        axial?: string | number;
        shrink?: boolean;
        levels?: string;
        foldOver?: boolean;
        criterion?: "D" | "A" | "I";
        possible?: string;
        keepEfficiency?: number;
        starts?: number;
        keep?: boolean;
        standardOrder?: boolean;
        snap: boolean;
        adopt?: boolean;
        out?: string;
      },
    ) => {
      const { planVerb, adoptPlan } = await import("@/core");
      const counted = ["fraction", "plackett-burman", "array", "optimal", "least-aliasing"];
      if (counted.includes(o.family) && o.trials === undefined && o.generators === undefined)
        throw new WrongCall(
          `--trials is needed for ${o.family}${o.family === "fraction" ? " (or --generators)" : ""}.`,
        );
      const study = readStudy(path);
      const searches = o.family === "optimal" || o.family === "least-aliasing";
      const { json: _json, terms, possible, adopt: _adopt, out: _out, ...options } = o;
      const { answer, plan } = planVerb(
        study,
        {
          seed: 1,
          ...options,
          ...(searches && terms !== undefined ? { terms: asked(study, terms) } : {}),
          ...(searches && possible !== undefined ? { possible: asked(study, possible) } : {}),
        } satisfies PlanOptions,
        appraisalTerms(study, terms, possible),
      );
      if (o.adopt || o.out) writeStudy(adoptPlan(study, plan), path, o.out);
      if ((o.adopt || o.out) && path === "-" && !o.out) return;
      const { planText } = await import("./text");
      print(o.json, answer, () => planText(study, answer));
    },
  );

/** A set of terms by its name where it has one, so that the recipe says it as briefly. */
const asked = (study: Study, text: string): NonNullable<PlanOptions["terms"]> =>
  text === "main" || text === "main+2fi" || text === "quadratic" ? text : readTerms(study, text);

const appraisalTerms = (
  study: Study,
  terms: string | undefined,
  possible: string | undefined,
): { terms?: ReturnType<typeof readTerms>; possible?: ReturnType<typeof readTerms> } => {
  const own = terms === undefined ? undefined : readTerms(study, terms);
  const others = possible === undefined ? undefined : readTerms(study, possible);
  const keys = new Set((own ?? readTerms(study, "main")).map((t) => [...t].sort().join("*")));
  return {
    ...(own ? { terms: own } : {}),
    ...(others ? { possible: others.filter((t) => !keys.has([...t].sort().join("*"))) } : {}),
  };
};

verb("appraise", "appraise all trials of a study")
  .argument("<study>")
  .option("--terms <set>")
  .option("--possible <set>")
  .option("--noise <s>", "trial-to-trial standard deviation", number)
  .option("--effect <d>", "change from low to high", number)
  .option("--alpha <a>", "", number)
  .action(async (path: string, o: Common & { possible?: string; noise?: number; effect?: number; alpha?: number }) => {
    const { appraiseVerb } = await import("@/core");
    const study = readStudy(path);
    const answer = appraiseVerb(study, {
      ...appraisalTerms(study, o.terms, o.possible),
      ...(o.noise === undefined ? {} : { noise: o.noise }),
      ...(o.effect === undefined ? {} : { effect: o.effect }),
      ...(o.alpha === undefined ? {} : { alpha: o.alpha }),
    });
    const { appraisalText } = await import("./text");
    print(o.json, answer, () => appraisalText(study, answer));
  });

verb("fit", "fit one response")
  .argument("<study>")
  .requiredOption("--response <id>")
  .option("--terms <set>")
  .option("--reduce <direction>", "backward, forward or both", oneOf<Direction>("backward", "forward", "both"))
  .option("--by <criterion>", "p, aicc or bic", oneOf<Criterion>("p", "aicc", "bic"))
  .option("--alpha <a>", "", number)
  .option("--hierarchy <rule>", "strong, weak or off", oneOf<Hierarchy>("strong", "weak", "off"))
  .option("--transform <scale>", "", transform)
  .option("--no-block", "leave waves out of the model")
  .action(
    async (
      path: string,
      o: Common & {
        response: string;
        reduce?: Direction;
        by?: Criterion;
        alpha?: number;
        hierarchy?: Hierarchy;
        transform?: Transform;
        block: boolean;
      },
    ) => {
      const { fitVerb } = await import("@/core");
      const study = readStudy(path);
      const { json: _json, terms, block, ...rest } = o;
      const answer = fitVerb(study, {
        ...rest,
        ...(block ? {} : { block: false }),
        ...(terms === undefined ? {} : { terms: readTerms(study, terms) }),
      });
      const { fitText } = await import("./text");
      print(o.json, answer, () => fitText(study, answer));
    },
  );

verb("subsets", "all subsets of candidate terms, exactly, and their average")
  .argument("<study>")
  .requiredOption("--response <id>")
  .option("--terms <set>", "candidates; main+2fi unless said")
  .option("--hierarchy <rule>", "strong, weak or off", oneOf<Hierarchy>("strong", "weak", "off"))
  .option("--average", "average the models by their weights")
  .option("--predicted", "the best by predicted R² too, for more than 18 terms")
  .option("--no-block", "leave waves out of the models")
  .action(
    async (
      path: string,
      o: Common & { response: string; hierarchy?: Hierarchy; average?: boolean; predicted?: boolean; block: boolean },
    ) => {
      const { finish, startJob } = await import("@/core");
      const study = readStudy(path);
      const answer = finish(
        startJob("subsets", {
          study,
          response: o.response,
          ...(o.terms === undefined ? {} : { terms: asked(study, o.terms) }),
          ...(o.hierarchy === undefined ? {} : { hierarchy: o.hierarchy }),
          ...(o.block ? {} : { block: false }),
          ...(o.predicted ? { predicted: true } : {}),
        }),
      );
      const { average, ...rest } = answer;
      const { subsetsText } = await import("./text");
      print(o.json, o.average ? { ...rest, average } : rest, () => subsetsText(study, answer, o.average === true));
    },
  );

verb("predict", "predict every response with a stored model at one point")
  .argument("<study>")
  .requiredOption("--at <settings>", "settings as JSON")
  .action(async (path: string, o: Common & { at: string }) => {
    const { predictVerb } = await import("@/core");
    const answer = predictVerb(readStudy(path), readSettings(o.at, "--at"));
    const { predictText } = await import("./text");
    print(o.json, answer, () => predictText(answer));
  });

verb("surface", "the shape of one response's model: stationary point, steepest ascent, importance of factors")
  .argument("<study>")
  .requiredOption("--response <id>")
  .option("--at <settings>", "where the path starts, as JSON; the centre unless said")
  .option("--step <n>", "step of the steepest factor along the path, in its unit", number)
  .action(async (path: string, o: Common & { response: string; at?: string; step?: number }) => {
    const { surfaceVerb } = await import("@/core");
    const study = readStudy(path);
    const answer = surfaceVerb(study, {
      response: o.response,
      ...(o.at === undefined ? {} : { at: readSettings(o.at, "--at") }),
      ...(o.step === undefined ? {} : { step: o.step }),
    });
    const { surfaceText } = await import("./text");
    print(o.json, answer, () => surfaceText(study, answer));
  });

verb("setpoint", "find the settings with the highest overall desirability")
  .argument("<study>")
  .option("--hold <settings>", "settings to hold, as JSON")
  .option("--draws <n>", "draws for the chance of meeting limits", whole)
  .option("--seed <n>", "", whole)
  .action(async (path: string, o: Common & { hold?: string; draws?: number }) => {
    const { finish, startJob } = await import("@/core");
    const study = readStudy(path);
    const held = Object.fromEntries(
      (study.setpoint?.held ?? []).map((id) => [id, study.setpoint?.settings[id] as number | string]),
    );
    const hold = o.hold === undefined ? held : readSettings(o.hold, "--hold");
    const answer = finish(
      startJob("setpoint", { study, hold, seed: o.seed ?? 1, ...(o.draws === undefined ? {} : { draws: o.draws }) }),
    );
    const { setpointText } = await import("./text");
    print(o.json, answer, () => setpointText(study, answer));
  });

verb("power", "solve effect, noise, power or replicates")
  .argument("<study>")
  .option("--terms <set>")
  .option("--alpha <a>", "", number)
  .option("--effect <d>", "", number)
  .option("--noise <s>", "", number)
  .option("--power <p>", "", number)
  .option("--replicates <n>", "", whole)
  .action(
    async (
      path: string,
      o: Common & { alpha?: number; effect?: number; noise?: number; power?: number; replicates?: number },
    ) => {
      const { powerVerb } = await import("@/core");
      const given = [o.effect, o.noise, o.power, o.replicates].filter((v) => v !== undefined).length;
      if (given !== 3 && !(given === 4 && o.alpha === undefined))
        throw new WrongCall(
          `give three of --effect, --noise, --power and --replicates (or all four without --alpha); ${given} were given.`,
        );
      const study = readStudy(path);
      const { json: _json, terms, alpha, ...question } = o;
      const answer = powerVerb(study, readTerms(study, terms ?? "main"), {
        ...(given === 4 ? {} : { alpha: alpha ?? 1 - study.confidence }),
        ...question,
      });
      const { powerText } = await import("./text");
      print(o.json, answer, () => powerText(answer));
    },
  );

verb("follow", "plan the wave that follows the trials of a study")
  .argument("<study>")
  .requiredOption(
    "--kind <kind>",
    "foldover, missing-fraction, axial, augment, centre, repeat, carry, ascent or confirm",
    oneOf<FollowKind>(
      "foldover",
      "missing-fraction",
      "axial",
      "augment",
      "centre",
      "repeat",
      "carry",
      "ascent",
      "confirm",
    ),
  )
  .option("--factors <list>", "factors turned, moved or carried on, such as A,B", (text: string) =>
    text.split(",").map((t) => t.trim()),
  )
  .option("--half", "fold-over: half of it")
  .option("--trials <n>", "new trials; copies of a repeat", whole)
  .option("--centre <n>", "centre points beside the others", whole)
  .option("--terms <set>", "terms to part or to appraise for")
  .option("--axial <distance>", "rotatable, spherical, face, orthogonal-blocks, or a number", axial)
  .option("--at <settings>", "where to confirm, start a path or hold idle factors, as JSON")
  .option("--of <list>", "ids of the trials to repeat", (text: string) => text.split(",").map((t) => t.trim()))
  .option("--response <id>", "the response a path climbs for")
  .option("--step <n>", "step of a path's steepest factor, in its unit", number)
  .option("--seed <n>", "seed of the run order", whole)
  .option("--standard-order", "do not randomise")
  .option("--adopt", "add the wave to the study file")
  .option("--out <file>", "write elsewhere")
  .action(
    async (
      path: string,
      o: Common & {
        kind: FollowKind;
        factors?: string[];
        half?: boolean;
        trials?: number;
        centre?: number;
        axial?: string | number;
        at?: string;
        of?: string[];
        response?: string;
        step?: number;
        standardOrder?: boolean;
        adopt?: boolean;
        out?: string;
      },
    ) => {
      const { adoptPlan, followVerb } = await import("@/core");
      if (o.kind === "augment" && o.trials === undefined) throw new WrongCall("--trials is needed for augment.");
      if (o.kind === "carry" && o.factors === undefined) throw new WrongCall("--factors is needed for carry.");
      const study = readStudy(path);
      const { json: _json, adopt: _adopt, out: _out, terms, at, ...rest } = o;
      const { answer, follow } = followVerb(
        study,
        {
          seed: 1,
          ...rest,
          ...(terms === undefined ? {} : { terms: asked(study, terms) }),
          ...(at === undefined ? {} : { at: readSettings(at, "--at") }),
        },
        terms === undefined ? {} : { terms: readTerms(study, terms) },
      );
      if (o.adopt || o.out) writeStudy(adoptPlan(study, follow.plan, follow.purpose), path, o.out);
      if ((o.adopt || o.out) && path === "-" && !o.out) return;
      const { followText } = await import("./text");
      print(o.json, answer, () => followText(study, answer));
    },
  );

verb("rig", "run the trials not yet run on a virtual process")
  .argument("<name>")
  .argument("<study>")
  .option("--seed <n>", "", whole)
  .option("--out <file>", "write elsewhere")
  .action(async (name: string, path: string, o: Common & { out?: string }) => {
    const { finish, startJob } = await import("@/core");
    const { study, ran } = finish(startJob("rig", { study: readStudy(path), name, seed: o.seed ?? 1 }));
    writeStudy(study, path, o.out);
    if (path !== "-" || o.out)
      print(
        o.json,
        { ran: ran.map((t) => t.id), seed: o.seed ?? 1 },
        () => `${ran.length} trials run on the ${name} rig, seed ${o.seed ?? 1}`,
      );
  });

verb("example", "the whole job on a shipped example")
  .argument("[name]", "", "wool-scouring")
  .option("--seed <n>", "", whole)
  .action(async (name: string, o: Common) => {
    const { tellExample } = await import("./example");
    const { json, text } = tellExample(name, o.seed ?? 1);
    print(o.json, json, () => text);
  });

try {
  await program.parseAsync(process.argv);
} catch (error) {
  if (error instanceof StudyError) {
    process.stderr.write(`${JSON.stringify({ code: error.code, message: error.message, path: error.path })}\n`);
    process.exitCode = 1;
  } else if (error instanceof WrongCall) {
    process.stderr.write(`${error.message}\n`);
    process.exitCode = 2;
  } else if (error instanceof CommanderError) process.exitCode = error.exitCode === 0 ? 0 : 2;
  else throw error;
}
