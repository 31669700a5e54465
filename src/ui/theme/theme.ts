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
} as const;

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
