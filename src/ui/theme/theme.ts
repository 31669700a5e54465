/** Colours of the moor, for charts; the same values stand in `global.css` for everything else. */
export const colours = {
  paper: "#F7F5F0",
  raised: "#FFFFFF",
  ink: "#23261F",
  quiet: "#6A6B60",
  hairline: "#DDD8CB",
  heather: "#6F4E7C",
  moss: "#55713A",
  bracken: "#B0622A",
  loch: "#2E6A82",
  rowan: "#9E2F2A",
  gorse: "#C9971A",
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
