/** Makes the shipped studies in examples/ from their rigs. Run: npx tsx scripts/make-examples.ts */
import { writeFileSync } from "node:fs";
import {
  adoptPlan,
  centreSettings,
  finish,
  makePlan,
  parseStudy,
  reduceModel,
  runRig,
  type Study,
  searchSetpoint,
  snapSettings,
  type Trial,
  termSet,
  wishesOf,
  writeStudyFile,
} from "../src/core";
import { seededRandom } from "../src/core/numerics/random";

/** Reduces a model for each response and stores it. */
function withModels(study: Study): Study {
  const models = study.responses.map((r) => {
    const { fit } = reduceModel(study, r.id, termSet(study, "quadratic"), { direction: "both", by: "p", alpha: 0.02, hierarchy: "strong" });
    return { response: r.id, transform: "none" as const, block: true, terms: fit.terms };
  });
  return { ...study, models };
}

const withSetpoint = (study: Study): Study => {
  const { settable } = finish(searchSetpoint(wishesOf(study), { seed: 1, draws: 2000 }));
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
    { id: "dose", letter: "B", name: "Detergent", unit: "g/kg", kind: "continuous", low: 4, high: 10, step: 0.5, tolerance: 0.1 },
    { id: "soda", letter: "C", name: "Soda ash", unit: "g/L", kind: "continuous", low: 0, high: 6, step: 0.5 },
    { id: "feed", letter: "D", name: "Feed", unit: "kg/h", kind: "continuous", low: 450, high: 750, step: 10, tolerance: 5 },
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
      noise: 0.03,
      smallest: 0.08,
      decimals: 3,
      goal: { aim: "within", low: 0.35, target: 0.45, high: 0.6 },
    },
    { id: "white", name: "Whiteness", unit: "index", importance: 2, noise: 0.4, smallest: 1, decimals: 1, goal: { aim: "raise", low: 58, high: 66 } },
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
      noise: 0.1,
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
  return [f.low, f.high].map((v) => ({ kind: "axial" as const, settings: { ...mid, [id]: v, lot: i % 2 === 0 ? "hill" : "lowland" } }));
});
line = finish(runRig(line, "wool-line", 3));
line = wave(
  line,
  "w2",
  "Wave 2",
  "axial points for a bend",
  "axial",
  [...axial, { kind: "centre", settings: { ...mid, lot: "lowland" } }, { kind: "centre", settings: { ...mid, lot: "lowland" } }],
  11,
);
line = finish(runRig(line, "wool-line", 3));
// The line's clock: at one axial trial the doser was read at 9.8, not 10.
line = {
  ...line,
  trials: line.trials.map((t) => (t.kind === "axial" && t.settings.dose === 10 ? { ...t, asRun: { dose: 9.8 }, note: "doser read 9.8" } : t)),
};
writeFileSync("examples/wool-scouring.trialmoor.json", writeStudyFile(parseStudy(withSetpoint(withModels(line)))));

const dryer = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "Raspberry freeze-drying",
  notes: "Dry enough to keep, red enough to sell. Moisture cannot go below zero.",
  factors: [
    { id: "shelf", letter: "A", name: "Shelf temperature", unit: "°C", kind: "continuous", low: 20, high: 50, step: 1, tolerance: 1 },
    { id: "pressure", letter: "B", name: "Chamber pressure", unit: "Pa", kind: "continuous", low: 10, high: 50, step: 2 },
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
// Box & Behnken (1960): the middles of the twelve edges of the cube, and the centre three times.
const level = (id: string, s: number): number => {
  const f = dryer.factors.find((x) => x.id === id) as Extract<Study["factors"][number], { kind: "continuous" }>;
  return (f.low + f.high) / 2 + (s * (f.high - f.low)) / 2;
};
const ids = ["shelf", "pressure", "slice"];
const edges = [
  [0, 1],
  [0, 2],
  [1, 2],
].flatMap((pair) =>
  [
    [-1, -1],
    [1, -1],
    [-1, 1],
    [1, 1],
  ].map((signs) => ({
    kind: "other" as const,
    settings: snapSettings(dryer.factors, Object.fromEntries(ids.map((id, j) => [id, level(id, pair.includes(j) ? signs[pair.indexOf(j)] : 0)]))),
  })),
);
const centre = { kind: "centre" as const, settings: centreSettings(dryer.factors) };
let berries = wave(dryer, "w1", "Wave 1", "characterise", "box-behnken", [...edges, centre, centre, centre], 5);
berries = finish(runRig(berries, "freeze-dryer", 2));
writeFileSync("examples/raspberry-drying.trialmoor.json", writeStudyFile(parseStudy(withSetpoint(withModels(berries)))));
