/**
 * Colours by what they mean, for charts; the same values stand in `global.css` for everything else. On the moor they are
 * heather (accent), moss (success), bracken (warning), rowan (danger), loch (info) and gorse (highlight).
 */
export const colours = {
  paper: "#F7F5F0",
  raised: "#FFFFFF",
  ink: "#23261F",
  quiet: "#6A6B60",
  hairline: "#DDD8CB",
  accent: "#6F4E7C",
  success: "#55713A",
  warning: "#B0622A",
  info: "#2E6A82",
  danger: "#9E2F2A",
  highlight: "#C9971A",
  /** Lines that carry a drawing, those of its grid, and what bars stand on. */
  rule: "#B8AC90",
  grid: "#E9E4D8",
  track: "#F0ECE1",
  /** What stands back: a part of the accent, what nothing is said of, words beside a point. */
  pale: "#CDBAD4",
  dull: "#CFC6B2",
  beside: "#5D5E54",
  tick: "#8B8C82",
  /** Words on a limit. */
  limit: "#97511F",
  /** Degrees of freedom for lack of fit, and of copies. */
  spare: "#C4A25A",
  copies: "#8A8268",
  /** Edges of cells that stand empty, and of those that are filled. */
  empty: "#E4DECF",
  cell: "#B9AFC0",
  /** What lies past a range and may be set. */
  reach: "#C9C1AE",
  /** Of the shell: a stone that lies, the sky, the ridge, the bed of a rule, a floor, what is not yet typed. */
  stone: "#6F6353",
  mist: "#FBFAF6",
  ridge: "#E6DFCF",
  bed: "#EEE9DE",
  floor: "#EFEADF",
  waiting: "#A9A89D",
  /** What may not be run. */
  excluded: "#6A5A48",
  /** The path that trials took, and the band of every other wave. */
  path: "#A79A83",
  stripe: "#EDE6D6",
} as const;

/** A colour of a drawing, by what it means. */
export type Colour = keyof typeof colours;

/** Dark peat to pale lichen, lightness rising evenly; the one ramp of response surfaces. */
export const ramp = [
  "#362C27",
  "#50392E",
  "#6C4935",
  "#89603F",
  "#A27C4B",
  "#B8975C",
  "#C9AF75",
  "#D7C592",
  "#E4D9B1",
  "#EFEBD2",
] as const;
