"use client";
import type { ReactNode } from "react";
import { pathThrough } from "../charts/paths";
import { colours, ramp } from "../theme/theme";
import css from "./shell.module.css";

/** What an empty station will be: drawn faintly, with the words it uses and what to do first. */

const W = 460;
const H = 210;

/** Plans by what they cost and how small a change they see. */
const Plans = (
  <>
    <path
      d={pathThrough([
        [60, 30],
        [60, 170],
        [430, 170],
      ])}
      fill="none"
      stroke={colours.quiet}
    />
    <path
      d={pathThrough([
        [100, 60],
        [170, 105],
        [260, 128],
        [370, 142],
      ])}
      fill="none"
      stroke={colours.accent}
    />
    {[
      [100, 60],
      [170, 105],
      [260, 128],
      [370, 142],
      [150, 70],
      [230, 88],
      [320, 104],
    ].map(([x, y], i) => (
      <circle key={x} cx={x} cy={y} r="6" fill={i < 4 ? colours.accent : colours.raised} stroke={colours.accent} />
    ))}
    <text x="245" y="194" textAnchor="middle">
      trials
    </text>
    <text transform="translate(44 100) rotate(-90)" textAnchor="middle">
      smallest change seen
    </text>
  </>
);

/** Rows of trials with results coming in. */
const Rows = (
  <>
    {["order", "Temperature", "Dose", "Yield"].map((t, i) => (
      <text key={t} x={40 + i * 108} y="28" fontWeight="600">
        {t}
      </text>
    ))}
    {[
      ["1", "68", "4", "61.2"],
      ["2", "52", "10", "58.9"],
      ["3", "60", "7", "64.0"],
      ["4", "52", "4", "…"],
      ["5", "68", "10", ""],
    ].map((row, r) => (
      <g key={row[0]}>
        <line x1="34" x2="440" y1={40 + r * 30} y2={40 + r * 30} stroke={colours.hairline} />
        {row.map((v, i) => (
          <text key={`${row[0]}${i}`} x={40 + i * 108} y={60 + r * 30} className="num">
            {v}
          </text>
        ))}
      </g>
    ))}
  </>
);

/** Effects by size beside a map. */
const Effects = (
  <>
    {[
      ["Temperature", 92],
      ["Dose", -70],
      ["Temperature × Dose", 44],
      ["Feed", 10],
      ["Dose²", -6],
    ].map(([name, size], i) => (
      <g key={name}>
        <text x="130" y={44 + i * 30} textAnchor="end">
          {name}
        </text>
        <rect
          x={Number(size) < 0 ? 225 + Number(size) : 225}
          y={32 + i * 30}
          width={Math.abs(Number(size))}
          height="16"
          fill={i < 3 ? colours.accent : colours.raised}
          stroke={colours.accent}
        />
      </g>
    ))}
    {[ramp[2], ramp[4], ramp[6]].map((fill, i) => (
      <ellipse key={fill} cx={390 - i * 4} cy={100 + i * 4} rx={62 - i * 18} ry={70 - i * 20} fill={fill} />
    ))}
  </>
);

/** Wishes met at a point. */
const Wishes = (
  <>
    {["Yield", "Haze", "Cost"].map((name, i) => (
      <g key={name}>
        <text x="40" y={42 + i * 52}>
          {name}
        </text>
        <rect x="40" y={52 + i * 52} width="190" height="10" fill={colours.hairline} />
        <rect x={80 + i * 20} y={52 + i * 52} width={120 - i * 24} height="10" fill={colours.success} />
        <path d={`M${130 + i * 12} ${46 + i * 52}l8 0l-4 7z`} fill={colours.info} />
      </g>
    ))}
    {[ramp[2], ramp[4], ramp[6]].map((fill, i) => (
      <ellipse key={fill} cx={350} cy={100} rx={84 - i * 24} ry={78 - i * 22} fill={fill} />
    ))}
    <rect x="340" y="90" width="20" height="20" rx="4" fill={colours.accent} />
    <text x="350" y="105" textAnchor="middle" fill={colours.raised}>
      1
    </text>
  </>
);

/** Each station's drawing and the words that are first met on it. */
const LOOKS = {
  plan: {
    drawing: Plans,
    alt: "Plans as points: trials across, the smallest change each sees upwards",
    words: [
      ["wave", "a batch of trials run together; each can be a block"],
      ["smallest change", "what a plan would see at the power asked, in the response's own unit"],
    ],
  },
  trials: {
    drawing: Rows,
    alt: "A ledger of trials with their settings and results",
    words: [
      ["order", "the order to run them in, drawn by chance so that drift does not look like an effect"],
      ["as run", "what was really set, where it was not what was planned"],
    ],
  },
  model: {
    drawing: Effects,
    alt: "Effects as bars by size, and a map of the response",
    words: [
      ["probe", "one point of the region: every picture and prediction goes through it"],
      ["step", "a term taken in or out; any step can be walked back to"],
      ["clear of noise", "larger than what chance alone would give"],
    ],
  },
  setpoint: {
    drawing: Wishes,
    alt: "What is wanted of each response, and a map of how well all of it is met",
    words: [
      ["desirability", "how well what is wanted is met, from 0 to 1; overall it is 0 where one response fails"],
      ["chance", "how likely one future trial keeps every limit, errors of model and setting included"],
    ],
  },
} as const;

export function FirstLook({
  station,
  title,
  text,
  children,
}: {
  station: keyof typeof LOOKS;
  title: string;
  text: ReactNode;
  /** What to do first. */
  children?: ReactNode;
}) {
  const { drawing, alt, words } = LOOKS[station];
  return (
    <div className={css.firstLook}>
      <div>
        <h2>{title}</h2>
        <p style={{ margin: "6px 0 12px" }}>{text}</p>
        {children}
        <dl>
          {words.map(([word, meaning]) => (
            <div key={word}>
              <dt>{word}</dt>
              <dd>{meaning}</dd>
            </div>
          ))}
        </dl>
      </div>
      <figure>
        <svg viewBox={`0 0 ${W} ${H}`} role="img" aria-label={`An example: ${alt}`} fontSize="13" fill={colours.ink}>
          {drawing}
        </svg>
        <figcaption className="small quiet">An example of what will stand here.</figcaption>
      </figure>
    </div>
  );
}
