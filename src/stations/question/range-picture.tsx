import { code, type Factor, isNumeric, rangeOf, type Study } from "@/core/study";
import { Dot } from "@/ui/charts/marks/dots";
import { Rule } from "@/ui/charts/marks/rule";
import { settingText } from "@/ui/parts/format";

/** A factor's range with its settable positions, hard limits and the trials that stand on it. */
export function RangePicture({ factor, study }: { factor: Factor; study: Study }) {
  const width = 118;
  if (!isNumeric(factor))
    return (
      <svg width={width} height="22" role="img" aria-label={`${factor.levels.length} levels`}>
        {factor.levels.slice(0, 8).map((l, i) => (
          <Dot
            key={l}
            at={[10 + (i * (width - 20)) / Math.max(1, Math.min(7, factor.levels.length - 1)), 11]}
            r={4}
            colour="none"
            outline="accent"
          />
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
      <Rule from={[Math.max(2, x(hard[0])), 12]} to={[Math.min(width - 2, x(hard[1])), 12]} colour="reach" width={2} />
      <Rule from={[x(low), 12]} to={[x(high), 12]} colour="accent" width={3} />
      {marks.map((m) => (
        <Rule key={m} from={[x(m), 7]} to={[x(m), 12]} colour="accent" width={count > 25 ? 0.6 : 1} />
      ))}
      {used.map((v) => (
        <Dot key={v} at={[Math.max(3, Math.min(width - 3, x(v))), 17]} r={1.8} colour="info" />
      ))}
    </svg>
  );
}
