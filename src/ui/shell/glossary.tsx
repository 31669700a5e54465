"use client";
import { Modal } from "../parts/overlays";

const WORDS: [string, string][] = [
  ["alias chain", "Effects that one estimate cannot tell apart: the figure is their sum."],
  ["block", "A wave in the model, so that a shift between days or lots is not taken for an effect."],
  ["centre point", "A trial with every numeric factor at its middle; shows whether anything bends, and pure noise."],
  [
    "desirability",
    "How good a result is, from 0 (useless) to 1 (as good as wanted); overall, the weighted geometric mean.",
  ],
  ["effect", "The change in a response when a factor goes from low to high."],
  ["generator", "Which product of factors a further factor is set to in a fraction, such as E = ABC."],
  ["half-normal plot", "Effect sizes in order against what pure noise would give; real effects stand off the line."],
  ["interaction", "The effect of one factor depends on where another stands."],
  ["lack of fit", "What the model misses beyond what repeats explain."],
  ["leverage", "How much a trial's own result pulls the model towards itself, from 0 to 1."],
  ["power", "The chance of seeing an effect of a given size if it is there."],
  ["pure error", "Noise seen between trials with the same settings."],
  [
    "resolution",
    "Length of the shortest word of the defining relation: III mixes mains with pairs, IV pairs with pairs.",
  ],
  ["R² predicted", "R² when each trial is predicted by a model fitted without it."],
  ["setpoint", "The settings chosen to run at, after rounding to what the machine can be set to."],
  ["wave", "A batch of trials planned and run together."],
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
    <Modal open onCancel={close} footer={null} title="Words and keys" width={640}>
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
        {[...KEYS, ...WORDS].map(([word, meaning], i) => (
          <div key={word} style={{ display: "contents" }}>
            <dt style={{ fontWeight: 600 }}>{i < KEYS.length ? <kbd>{word}</kbd> : word}</dt>
            <dd style={{ margin: 0 }}>{meaning}</dd>
          </div>
        ))}
      </dl>
    </Modal>
  );
}
