import { Band } from "./band";

const defaults = Object.freeze({ whole: 0.75, part: 0.28, bleed: 0.3 });

/** What of a square is excluded, cell by cell from its lower left corner: shares from 0 to 1. */
export const Hatch = ({
  shares,
  left,
  top,
  size,
  whole = defaults.whole,
  part = defaults.part,
}: {
  shares: readonly number[];
  left: number;
  top: number;
  size: number;
  /** How dark a cell is that is excluded whole, and in part; none where it is 0. */
  whole?: number;
  part?: number;
}) => {
  const cells = Math.round(Math.sqrt(shares.length));
  return shares.map((share, i) => {
    const dark = share === 1 ? whole : part;
    if (share === 0 || dark === 0) return null;
    return (
      <Band
        key={i}
        x={left + ((i % cells) * size) / cells}
        y={top + size - ((Math.floor(i / cells) + 1) * size) / cells}
        width={size / cells + defaults.bleed}
        height={size / cells + defaults.bleed}
        colour="excluded"
        opacity={dark}
      />
    );
  });
};
