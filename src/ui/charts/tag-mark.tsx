import { colours } from "../theme/theme";

const defaults = Object.freeze({ size: 18, stem: 9 });

/** A numbered square tag at a point; one that would leave the picture hangs below its point. */
export function TagMark({ x, y, text }: { x: number; y: number; text: string }) {
  const { size, stem } = defaults;
  const hangs = y < size + stem + 1;
  return (
    <g transform={`translate(${x} ${y})`} pointerEvents="none">
      <line y2={hangs ? stem : -stem} stroke={colours.accent} strokeWidth="2" />
      <circle r="2.500" fill={colours.accent} stroke={colours.raised} />
      <rect
        x={-size / 2}
        y={hangs ? stem - 1 : 1 - stem - size}
        width={size}
        height={size}
        rx="3"
        fill={colours.accent}
        stroke={colours.raised}
        strokeWidth="1.500"
      />
      <text
        y={hangs ? stem + 12 : -stem - 4}
        textAnchor="middle"
        fontSize="11.500"
        fontWeight="700"
        fill={colours.raised}
      >
        {text}
      </text>
    </g>
  );
}
