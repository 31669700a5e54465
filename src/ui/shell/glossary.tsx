"use client";
import { Modal } from "../parts/overlays";

/** Words that stand on screen, each with its meaning and where to see it. */
const WORDS: [word: string, meaning: string, where: string][] = [
  [
    "AICc, BIC",
    "Weigh how well a model fits against how many terms it has; the smaller the better, beside others of the same trials.",
    "Model, below the ladder; Rivals",
  ],
  [
    "alias chain",
    "Effects that one estimate cannot tell apart: the figure is their sum.",
    "Plan, Risks and Aliasing; Model, below a term",
  ],
  [
    "axial point",
    "A trial with one factor out and all others in their middle; shows which factor bends.",
    "Plan, composite plans",
  ],
  [
    "block",
    "A wave in the model, so that a shift between days or lots is not taken for an effect.",
    "Model, first rung",
  ],
  [
    "centre point",
    "A trial with every numeric factor at its middle; shows whether anything bends, and pure noise.",
    "Plan, centre points",
  ],
  [
    "chance",
    "That one future trial keeps every limit, with what is not known of the models counted in.",
    "Setpoint, candidates",
  ],
  [
    "coded units",
    "−1 where a factor is low, +1 where it is high: sizes can be compared whatever the units.",
    "Model, Equation",
  ],
  ["confirmation", "Trials at the setpoint that judge what was predicted for them.", "Setpoint, Confirm"],
  ["covariate", "Something measured at a trial that nobody sets, such as the weather.", "Question; Trials"],
  ["curvature", "How far the centre lies off the straight lines between the corners.", "Model, Checks and a rung"],
  [
    "D-efficiency",
    "How well a plan tells all its coefficients together, beside the best there could be.",
    "Plan, Efficiency and inflation",
  ],
  [
    "desirability",
    "How good a result is, from 0 (useless) to 1 (as good as wanted); overall, the weighted geometric mean.",
    "Setpoint",
  ],
  [
    "df",
    "Degrees of freedom: how many independent looks at the noise stand behind an error.",
    "Model, below the ladder; Plan",
  ],
  ["effect", "The change in a response when a factor goes from low to high.", "Model, the ladder"],
  ["generator", "Which product of factors a further factor is set to in a fraction, such as E = ABC.", "Plan, Recipe"],
  [
    "half-normal plot",
    "Effect sizes in order against what pure noise would give; real effects stand off the line.",
    "Model, Half-normal",
  ],
  ["interaction", "The effect of one factor depends on where another stands.", "Model, Pairs"],
  [
    "interval of one trial",
    "Where one more trial at these settings would fall; wider than that of the mean.",
    "Model, the probe",
  ],
  ["lack of fit", "What the model misses beyond what repeats explain.", "Model, Checks and Table"],
  ["leverage", "How much a trial's own result pulls the model towards itself, from 0 to 1.", "Model, Residuals"],
  ["p", "How often noise alone would give as much or more; small where it hardly would.", "Model, the ladder"],
  ["power", "The chance of seeing an effect of a given size if it is there.", "Plan, Power"],
  [
    "Ppk",
    "Distance of the mean from the nearer limit over three standard deviations of single trials.",
    "Setpoint, Capability and Confirm",
  ],
  ["prediction error", "How unsure a plan leaves a prediction, in σ, over the region.", "Plan, Prediction error"],
  ["pure error", "Noise seen between trials with the same settings.", "Model, Table; Plan, Degrees of freedom"],
  [
    "resolution",
    "Length of the shortest word of the defining relation: III mixes mains with pairs, IV pairs with pairs.",
    "Plan, Recipe",
  ],
  [
    "R², adjusted",
    "Share of the variation that the model explains; the same less what terms explain by chance.",
    "Model, below the ladder",
  ],
  ["R² predicted", "R² when each trial is predicted by a model fitted without it.", "Model, below the ladder"],
  [
    "s, σ",
    "Standard deviation of one trial about the model; that of the process, which s estimates.",
    "Model, below the ladder; Question, noise",
  ],
  [
    "scatter",
    "Of what is counted: how many times as much trials vary as counting alone gives.",
    "Model, below the ladder",
  ],
  ["setpoint", "The settings chosen to run at, after rounding to what the machine can be set to.", "Setpoint"],
  ["set-up", "Trials that share the settings of what is hard to change.", "Plan; Trials"],
  ["standard order", "The order of a plan before it was put at random.", "Trials"],
  ["stationary point", "Where a fitted surface is level: a top, a bottom or a saddle.", "Model, Surface"],
  ["tolerance", "How far off a factor may be set; the chance counts it in.", "Question"],
  [
    "VIF",
    "How many times larger a coefficient's variance is for being mixed with others; 1 where it is not.",
    "Model, Table",
  ],
  ["wave", "A batch of trials planned and run together.", "Plan; Trials"],
];

const KEYS: [string, string][] = [
  ["g then q p t m s r", "go to a station"],
  ["Enter, Tab, arrows", "take a cell and move"],
  ["↑ ↓ and space on the ladder", "move, and take a term in or out"],
  ["[ and ]", "fold the probe, fold the readings"],
  ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
  ["Ctrl K", "find a command"],
];

/** Help: the trade's words in plain ones, and the keys. */
export function Glossary({ close }: { close(): void }) {
  return (
    <Modal open onCancel={close} footer={null} title="Words and keys" width={720}>
      <dl
        style={{
          display: "grid",
          gridTemplateColumns: "150px 1fr",
          gap: "4px 12px",
          margin: 0,
          maxHeight: "60vh",
          overflow: "auto",
        }}
      >
        {KEYS.map(([keys, meaning]) => (
          <div key={keys} style={{ display: "contents" }}>
            <dt>
              <kbd>{keys}</kbd>
            </dt>
            <dd style={{ margin: 0 }}>{meaning}</dd>
          </div>
        ))}
        {WORDS.map(([word, meaning, where]) => (
          <div key={word} style={{ display: "contents" }}>
            <dt style={{ fontWeight: 600 }}>{word}</dt>
            <dd style={{ margin: 0 }}>
              {meaning} <span className="quiet small">{where}</span>
            </dd>
          </div>
        ))}
      </dl>
    </Modal>
  );
}
