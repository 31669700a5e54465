/** Makes the shipped studies in examples/ from their rigs. Run: npx tsx scripts/make-examples.ts */
import { writeFileSync } from "node:fs";
import { writeStudyFile } from "../src/core/formats";
import { reducedSteps, reduceModel } from "../src/core/model";
import { seededRandom } from "../src/core/numerics/random";
import { runRig } from "../src/core/operator";
import { adoptPlan, followUp, makePlan } from "../src/core/plans";
import { finish } from "../src/core/questions";
import { searchSetpoint, setpointProblem } from "../src/core/setpoint";
import { centreSettings, parseStudy, type Study, type Trial, termSet } from "../src/core/study";

/** Reduces a model for each response and stores it. */
function withModels(study: Study, direction: "both" | "backward" = "both", by: "p" | "aicc" = "p"): Study {
  const models = study.responses.map((r) => {
    const { fit, steps } = reduceModel(study, r.id, termSet(study, "quadratic"), {
      direction,
      by,
      alpha: 0.02,
      hierarchy: "strong",
    });
    const terms = direction === "both" ? [] : termSet(study, "quadratic");
    const way = [{ action: "start" as const, terms, r2Predicted: null }, ...reducedSteps(steps, by, 0.02)];
    return { response: r.id, transform: "none" as const, block: true, curvature: true, terms: fit.terms, steps: way };
  });
  return { ...study, models };
}

const withSetpoint = (study: Study): Study => {
  const { settable } = finish(searchSetpoint(setpointProblem(study), { seed: 1, draws: 2000 }));
  return { ...study, setpoint: { settings: settable.settings, held: [] } };
};

function wave(
  study: Study,
  id: string,
  name: string,
  purpose: string,
  family: string,
  points: { settings: Study["trials"][number]["settings"]; kind: Trial["kind"] }[],
  seed: number,
): Study {
  const start = study.trials.length;
  const order = seededRandom(seed).shuffled(points.map((_, i) => i));
  const trials = order.map(
    (standard, i): Trial => ({
      id: `t${start + i + 1}`,
      wave: id,
      standard: standard + 1,
      order: start + i + 1,
      kind: points[standard].kind,
      state: "planned",
      note: "",
      use: true,
      settings: points[standard].settings,
      results: {},
    }),
  );
  return {
    ...study,
    waves: [...study.waves, { id, name, purpose, plan: { family, trials: points.length, seed } }],
    trials: [...study.trials, ...trials],
  };
}

const wool = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "Fellgate wool scouring line",
  notes: "Clean the fleece without felting it, and at what cost? A made-up line with a rig of its own.",
  factors: [
    {
      id: "temp",
      letter: "A",
      name: "Bowl temperature",
      unit: "°C",
      kind: "continuous",
      low: 52,
      high: 68,
      hardLow: 48,
      hardHigh: 72,
      step: 1,
      tolerance: 0.5,
    },
    {
      id: "dose",
      letter: "B",
      name: "Detergent",
      unit: "g/kg",
      kind: "continuous",
      low: 4,
      high: 10,
      step: 0.5,
      tolerance: 0.1,
    },
    { id: "soda", letter: "C", name: "Soda ash", unit: "g/L", kind: "continuous", low: 0, high: 6, step: 0.5 },
    {
      id: "feed",
      letter: "D",
      name: "Feed",
      unit: "kg/h",
      kind: "continuous",
      low: 450,
      high: 750,
      step: 10,
      tolerance: 5,
    },
    { id: "squeeze", letter: "E", name: "Squeeze", unit: "kN", kind: "continuous", low: 5, high: 11, step: 0.5 },
    { id: "lot", letter: "F", name: "Wool lot", kind: "categorical", levels: ["hill", "lowland"] },
  ],
  responses: [
    {
      id: "grease",
      name: "Residual grease",
      unit: "%",
      importance: 3,
      bounds: { min: 0 },
      noise: 0.025,
      smallest: 0.08,
      decimals: 3,
      goal: { aim: "within", low: 0.35, target: 0.45, high: 0.6 },
    },
    {
      id: "white",
      name: "Whiteness",
      unit: "index",
      importance: 2,
      noise: 0.4,
      smallest: 1,
      decimals: 1,
      goal: { aim: "raise", low: 58, high: 66 },
    },
    {
      id: "tangle",
      name: "Entanglement",
      unit: "index",
      importance: 2,
      noise: 0.5,
      smallest: 1.2,
      decimals: 1,
      goal: { aim: "lower", low: 14, high: 24 },
    },
    {
      id: "cost",
      name: "Water and heat cost",
      unit: "p/kg",
      importance: 1,
      noise: 0.08,
      smallest: 0.3,
      decimals: 2,
      goal: { aim: "lower", low: 9, high: 14 },
    },
  ],
});
let line = adoptPlan(wool, makePlan(wool, { family: "fraction", generators: "E=ABC,F=BCD", centre: 3, seed: 7 }));
const mid = centreSettings(line.factors);
// Both ends of a factor get one lot and the centres make up the balance, so that contrasts stay orthogonal.
const axial = ["temp", "dose", "soda", "feed", "squeeze"].flatMap((id, i) => {
  const f = line.factors.find((x) => x.id === id) as Extract<Study["factors"][number], { kind: "continuous" }>;
  return [f.low, f.high].map((v) => ({
    kind: "axial" as const,
    settings: { ...mid, [id]: v, lot: i % 2 === 0 ? "hill" : "lowland" },
  }));
});
line = finish(runRig(line, "wool-line", 3));
line = wave(
  line,
  "w2",
  "Wave 2",
  "axial points for a bend",
  "axial",
  [
    ...axial,
    { kind: "centre", settings: { ...mid, lot: "lowland" } },
    { kind: "centre", settings: { ...mid, lot: "lowland" } },
  ],
  11,
);
line = finish(runRig(line, "wool-line", 3));
// The line's clock: at one axial trial the doser was read at 9.8, not 10.
line = {
  ...line,
  trials: line.trials.map((t) =>
    t.kind === "axial" && t.settings.dose === 10 ? { ...t, asRun: { dose: 9.8 }, note: "doser read 9.8" } : t,
  ),
};
writeFileSync("examples/wool-scouring.trialmoor.json", writeStudyFile(parseStudy(withSetpoint(withModels(line)))));

const dryer = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "Raspberry freeze-drying",
  notes: "Dry enough to keep, red enough to sell. Moisture cannot go below zero.",
  factors: [
    {
      id: "shelf",
      letter: "A",
      name: "Shelf temperature",
      unit: "°C",
      kind: "continuous",
      low: 20,
      high: 50,
      step: 1,
      tolerance: 1,
    },
    {
      id: "pressure",
      letter: "B",
      name: "Chamber pressure",
      unit: "Pa",
      kind: "continuous",
      low: 10,
      high: 50,
      step: 2,
    },
    { id: "slice", letter: "C", name: "Slice thickness", unit: "mm", kind: "continuous", low: 4, high: 12, step: 0.5 },
  ],
  responses: [
    {
      id: "moisture",
      name: "Residual moisture",
      unit: "%",
      importance: 2,
      bounds: { min: 0 },
      noise: 0.15,
      smallest: 0.5,
      decimals: 2,
      goal: { aim: "lower", low: 1, high: 3 },
    },
    {
      id: "colour",
      name: "Colour kept",
      unit: "%",
      importance: 1,
      bounds: { min: 0, max: 100 },
      noise: 1,
      smallest: 3,
      decimals: 1,
      goal: { aim: "raise", low: 70, high: 86 },
    },
  ],
});
const berries = finish(
  runRig(
    adoptPlan(dryer, makePlan(dryer, { family: "box-behnken", centre: 3, seed: 5 }), "characterise"),
    "freeze-dryer",
    2,
  ),
);
writeFileSync(
  "examples/raspberry-drying.trialmoor.json",
  writeStudyFile(parseStudy(withSetpoint(withModels(berries)))),
);

const bath = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "Nickel bath screening",
  notes: "Which of ten knobs make the coating, and which make it even? Thickness is read at four places of each panel.",
  factors: [
    { id: "nickel", letter: "A", name: "Nickel", unit: "g/L", kind: "continuous", low: 60, high: 90, step: 1 },
    { id: "chloride", letter: "B", name: "Chloride", unit: "g/L", kind: "continuous", low: 8, high: 20, step: 1 },
    { id: "boric", letter: "C", name: "Boric acid", unit: "g/L", kind: "continuous", low: 35, high: 45, step: 1 },
    { id: "ph", letter: "D", name: "pH", kind: "continuous", low: 3.6, high: 4.6, step: 0.1, tolerance: 0.05 },
    {
      id: "temp",
      letter: "E",
      name: "Bath temperature",
      unit: "°C",
      kind: "continuous",
      low: 50,
      high: 62,
      step: 1,
      tolerance: 0.5,
    },
    {
      id: "current",
      letter: "F",
      name: "Current density",
      unit: "A/dm²",
      kind: "continuous",
      low: 2,
      high: 6,
      step: 0.1,
      tolerance: 0.1,
    },
    { id: "agitation", letter: "G", name: "Agitation", unit: "rpm", kind: "continuous", low: 20, high: 100, step: 5 },
    { id: "brightener", letter: "H", name: "Brightener", unit: "mL/L", kind: "continuous", low: 1, high: 9, step: 0.5 },
    { id: "distance", letter: "J", name: "Anode distance", unit: "cm", kind: "continuous", low: 12, high: 28, step: 1 },
    { id: "filter", letter: "K", name: "Filter cycles", unit: "1/h", kind: "continuous", low: 1, high: 5, step: 1 },
  ],
  responses: [
    {
      id: "thickness",
      name: "Thickness",
      unit: "µm",
      importance: 3,
      bounds: { min: 0 },
      noise: 0.6,
      smallest: 2,
      decimals: 1,
      goal: { aim: "hit", low: 16, target: 20, high: 24 },
    },
    {
      id: "gloss",
      name: "Gloss",
      unit: "GU",
      importance: 1,
      bounds: { min: 0 },
      noise: 2,
      smallest: 5,
      decimals: 0,
      goal: { aim: "raise", low: 60, high: 80 },
    },
  ],
});
const plated = finish(
  runRig(adoptPlan(bath, makePlan(bath, { family: "definitive", seed: 4 }), "screen"), "nickel-bath", 6),
);
// Screening terms only: main effects first, then what stands out among bends and interactions of the active ones.
const screened: Study = {
  ...plated,
  models: plated.responses.map((r) => {
    const { fit } = reduceModel(plated, r.id, termSet(plated, "quadratic"), {
      direction: "forward",
      by: "p",
      alpha: 0.01,
      hierarchy: "strong",
    });
    return { response: r.id, transform: "none" as const, block: true, curvature: true, terms: fit.terms };
  }),
};
writeFileSync("examples/nickel-screening.trialmoor.json", writeStudyFile(parseStudy(withSetpoint(screened))));

// What is counted and what is measured one by one: cracked of 200, pits on 2.5 dm², thickness of single buttons.
const press = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "Horn button press",
  notes:
    "Made-up example. Buttons are pressed from horn blanks under heat. Cracked buttons are counted out of 200 pressed in a trial, pits on 2.5 dm² of their faces; twelve buttons of each trial are measured for thickness. Cool or dry horn cracks, hot horn blisters, and what presses harder thins.",
  factors: [
    {
      id: "heat",
      letter: "A",
      name: "Plate temperature",
      unit: "°C",
      kind: "continuous",
      low: 150,
      high: 170,
      hardLow: 145,
      hardHigh: 175,
      step: 1,
      tolerance: 1,
    },
    {
      id: "force",
      letter: "B",
      name: "Force",
      unit: "kN",
      kind: "continuous",
      low: 30,
      high: 50,
      hardLow: 25,
      hardHigh: 55,
      step: 1,
      tolerance: 0.5,
    },
    {
      id: "dwell",
      letter: "C",
      name: "Dwell",
      unit: "s",
      kind: "continuous",
      low: 20,
      high: 60,
      hardLow: 10,
      hardHigh: 80,
      step: 5,
      tolerance: 1,
    },
    {
      id: "damp",
      letter: "D",
      name: "Horn moisture",
      unit: "%",
      kind: "continuous",
      low: 8,
      high: 14,
      hardLow: 6,
      hardHigh: 16,
      step: 0.5,
      tolerance: 0.3,
    },
  ],
  responses: [
    {
      id: "cracked",
      name: "Cracked",
      measured: "share",
      of: 200,
      base: 0.07,
      excess: 2,
      smallest: 0.05,
      importance: 3,
      goal: { aim: "lower", low: 0.01, high: 0.06 },
    },
    {
      id: "pits",
      name: "Pits",
      unit: "dm²",
      measured: "count",
      of: 2.5,
      base: 2,
      excess: 1.5,
      smallest: 1,
      importance: 2,
      goal: { aim: "lower", low: 0.8, high: 2.5 },
    },
    {
      id: "thickness",
      name: "Thickness",
      unit: "mm",
      several: "units",
      decimals: 2,
      noise: 0.03,
      smallest: 0.05,
      importance: 2,
      bounds: { min: 0 },
      goal: { aim: "within", low: 3.2, target: 3.4, high: 3.6 },
    },
  ],
});
const pressed = finish(
  runRig(adoptPlan(press, makePlan(press, { family: "factorial", centre: 3, seed: 11 }), "screen"), "button-press", 5),
);
const modelled: Study = {
  ...pressed,
  models: pressed.responses.map((r) => {
    const { fit } = reduceModel(pressed, r.id, termSet(pressed, "main+2fi"), {
      direction: "backward",
      by: "aicc",
      alpha: 0.05,
      hierarchy: "strong",
    });
    return { response: r.id, transform: "none" as const, block: true, curvature: true, terms: fit.terms };
  }),
};
const chosen = withSetpoint(modelled);
const confirming = followUp(chosen, { kind: "confirm", trials: 3, seed: 1 }).plan;
const confirmed = finish(runRig(adoptPlan(chosen, confirming, "confirm"), "button-press", 8));
writeFileSync("examples/horn-buttons.trialmoor.json", writeStudyFile(parseStudy(confirmed)));

// Smoke is brought up for a whole charge: temperature and humidity stay set, the fish on each rack are the trials.
const smoke = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "Skerry fish smokehouse",
  notes:
    "Made-up example. The smoke takes half a day to bring up, so its temperature and humidity stay set for several racks of fish; brine, drying and the cut are each rack's own. Charges of smoke never come out quite alike: what smoke does is judged by how charges differ, all else by how racks do.",
  setupCost: 3,
  factors: [
    {
      id: "smoke",
      letter: "A",
      name: "Smoke temperature",
      unit: "°C",
      kind: "continuous",
      low: 24,
      high: 32,
      step: 1,
      tolerance: 0.5,
      change: "hard",
    },
    {
      id: "damp",
      letter: "B",
      name: "Smoke humidity",
      unit: "%",
      kind: "continuous",
      low: 60,
      high: 80,
      step: 2,
      tolerance: 1,
      change: "hard",
    },
    { id: "brine", letter: "C", name: "Brine strength", unit: "%", kind: "continuous", low: 6, high: 14, step: 1 },
    { id: "drying", letter: "D", name: "Drying time", unit: "h", kind: "continuous", low: 1, high: 5, step: 0.5 },
    { id: "cut", letter: "E", name: "Fillet thickness", unit: "mm", kind: "continuous", low: 14, high: 26, step: 2 },
  ],
  responses: [
    {
      id: "loss",
      name: "Weight loss",
      unit: "%",
      importance: 3,
      bounds: { min: 0, max: 100 },
      noise: 0.5,
      smallest: 1.5,
      decimals: 1,
      goal: { aim: "hit", low: 16, target: 18, high: 20 },
    },
    {
      id: "taste",
      name: "Smoke taste",
      unit: "points",
      importance: 2,
      bounds: { min: 0, max: 10 },
      noise: 0.3,
      smallest: 0.8,
      decimals: 1,
      goal: { aim: "raise", low: 5, high: 7 },
    },
  ],
});
const firstCharges = makePlan(smoke, { family: "fraction", trials: 16, setups: 9, centre: 2, seed: 3 });
const screenedSmoke = finish(runRig(adoptPlan(smoke, firstCharges, "screen"), "smokehouse", 8));
const furtherCharges = followUp(screenedSmoke, {
  kind: "augment",
  terms: "quadratic",
  trials: 18,
  setups: 6,
  seed: 2,
});
const smoked = finish(runRig(adoptPlan(screenedSmoke, furtherCharges.plan, furtherCharges.purpose), "smokehouse", 8));
writeFileSync(
  "examples/fish-smokehouse.trialmoor.json",
  writeStudyFile(parseStudy(withSetpoint(withModels(smoked, "backward", "aicc")))),
);
