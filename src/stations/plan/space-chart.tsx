import { AxisX, AxisY, type Box, linear } from "@/ui/charts/axes";
import { colours } from "@/ui/theme/theme";

const STROKES = [colours.loch, colours.heather, colours.bracken];
const DASHES = [undefined, "6 3", "2 3"];

/** Fraction-of-space curves of the picked plans in one chart: share of the region against prediction error in σ. */
export function SpaceChart({ curves }: { curves: { letter: string; points: { fraction: number; value: number }[] }[] }) {
  const width = 380;
  const height = 170;
  const box: Box = { left: 46, top: 8, width: width - 70, height: height - 48 };
  const most = Math.max(0.1, ...curves.flatMap((c) => c.points.map((p) => p.value)));
  const x = linear([0, 100], [box.left, box.left + box.width]);
  const y = linear([0, most * 1.08], [box.top + box.height, box.top]).nice();
  return (
    <svg width={width} height={height} role="img" aria-label={`Prediction error over the region for plans ${curves.map((c) => c.letter).join(", ")}`}>
      <AxisX scale={x} box={box} name="share of the region, %" count={5} grid />
      <AxisY scale={y} box={box} name="prediction error, σ" count={4} grid offset={36} />
      {curves.map((c, i) => (
        <g key={c.letter}>
          <path
            d={c.points.map((p, j) => `${j === 0 ? "M" : "L"}${x(100 * p.fraction).toFixed(1)} ${y(p.value).toFixed(1)}`).join("")}
            fill="none"
            stroke={STROKES[i]}
            strokeWidth="2"
            strokeDasharray={DASHES[i]}
          />
          <text
            x={box.left + box.width + 5}
            y={y(c.points[c.points.length - 1]?.value ?? 0) + 4}
            fontSize="13"
            fontWeight="600"
            fill={STROKES[i]}
            style={{ fontFamily: "var(--serif)" }}
          >
            {c.letter}
          </text>
        </g>
      ))}
    </svg>
  );
}
