import { colours } from "../theme/theme";
/** Three stones on the ridge: filled as the part gets done, the top one tipped when something upstream changed. */
export function StageMarkerGlyph({
  stones,
  loose,
  active,
  size = 22,
}: {
  stones: number;
  loose: boolean;
  active: boolean;
  size?: number;
}) {
  const full = active ? colours.accent : colours.stone;
  const shapes = [
    { cx: 12, cy: 20, rx: 9, ry: 3.6 },
    { cx: 12, cy: 13.4, rx: 6.6, ry: 3 },
    { cx: 12, cy: 7.8, rx: 4.2, ry: 2.5 },
  ];
  return (
    <svg width={size} height={size} viewBox="0 0 24 24" aria-hidden="true">
      {shapes.map((s, i) => {
        const tipped = loose && i === 2;
        return (
          <ellipse
            key={s.cy}
            {...s}
            cx={tipped ? 18 : s.cx}
            fill={i < stones ? full : colours.mist}
            stroke={full}
            strokeWidth="1.2"
            transform={tipped ? "rotate(24 18 8)" : undefined}
          />
        );
      })}
    </svg>
  );
}

/** The product's mark: three ridges one behind the other. */
export function Mark() {
  return (
    <svg
      width="26"
      height="20"
      viewBox="0 0 26 20"
      fill="none"
      stroke={colours.accent}
      strokeWidth="1.7"
      aria-hidden="true"
    >
      <path d="M1 18 C5 18 8 2 13 2 S21 18 25 18" />
      <path d="M5 18 C8 18 10 7 13 7 S18 18 21 18" />
      <path d="M9 18 C10.500 18 11.500 12 13 12 S15.500 18 17 18" />
    </svg>
  );
}
