import { colours } from "../theme/theme";
import type { Box, Linear } from "./marks/axis";

/** Lines across a chart: its zero, and dashed ones past which something stands out. */
export function Cuts({ box, scale, cuts }: { box: Box; scale: Linear; cuts: readonly number[] }) {
  const [x1, x2] = [box.left, box.left + box.width];
  return (
    <g>
      <line x1={x1} x2={x2} y1={scale(0)} y2={scale(0)} stroke={colours.rule} />
      {cuts.map((c) => (
        <line key={c} x1={x1} x2={x2} y1={scale(c)} y2={scale(c)} stroke={colours.warning} strokeDasharray="4 3" />
      ))}
    </g>
  );
}
