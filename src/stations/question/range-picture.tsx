import { code, type Factor, isNumeric, rangeOf, type Study } from "@/core/study";
import { settingText } from "@/ui/parts/format";
import { colours } from "@/ui/theme/theme";

/** A factor's range with its settable positions, hard limits and the trials that stand on it. */
export function RangePicture({ factor, study }: { factor: Factor; study: Study }) {
  const width = 118;
  if (!isNumeric(factor))
    return (
      <svg width={width} height="22" role="img" aria-label={`${factor.levels.length} levels`}>
        {factor.levels.slice(0, 8).map((l, i) => (
          <g key={l}>
            <circle
              cx={10 + (i * (width - 20)) / Math.max(1, Math.min(7, factor.levels.length - 1))}
              cy="11"
              r="4"
              fill="none"
              stroke={colours.accent}
              strokeWidth="1.500"
            />
          </g>
        ))}
      </svg>
    );
  const [low, high] = rangeOf(factor);
  const hard = factor.kind === "continuous" ? [factor.hardLow ?? low, factor.hardHigh ?? high] : [low, high];
  const x = (v: number): number => 18 + ((code(factor, v) + 1) / 2) * (width - 36);
  const step = factor.kind === "continuous" ? factor.step : undefined;
  const count = step === undefined ? 0 : Math.floor((high - low) / step + 1e-9) + 1;
  const marks =
    factor.kind === "discrete"
      ? factor.values
      : count > 0 && count <= 41 && step !== undefined
        ? Array.from({ length: count }, (_, i) => low + i * step)
        : [];
  const used = [...new Set(study.trials.map((t) => t.settings[factor.id] as number))];
  return (
    <svg
      width={width}
      height="22"
      role="img"
      aria-label={`${settingText(low)} to ${settingText(high)}${count > 0 ? `, ${count} positions` : ""}`}
    >
      <line
        x1={Math.max(2, x(hard[0]))}
        x2={Math.min(width - 2, x(hard[1]))}
        y1="12"
        y2="12"
        stroke="#C9C1AE"
        strokeWidth="2"
      />
      <line x1={x(low)} x2={x(high)} y1="12" y2="12" stroke={colours.accent} strokeWidth="3" />
      {marks.map((m) => (
        <line key={m} x1={x(m)} x2={x(m)} y1="7" y2="12" stroke={colours.accent} strokeWidth={count > 25 ? 0.6 : 1} />
      ))}
      {used.map((v) => (
        <circle key={v} cx={Math.max(3, Math.min(width - 3, x(v)))} cy="17" r="1.800" fill={colours.info} />
      ))}
    </svg>
  );
}
