import type { ThemeConfig } from "antd";

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
export const ramp = ["#362C27", "#50392E", "#6C4935", "#89603F", "#A27C4B", "#B8975C", "#C9AF75", "#D7C592", "#E4D9B1", "#EFEBD2"] as const;

/** Ant Design in our tokens. */
export const theme: ThemeConfig = {
  cssVar: { key: "trialmoor" },
  hashed: false,

  token: {
    colorPrimary: colours.heather,
    colorInfo: colours.loch,
    colorSuccess: colours.moss,
    colorWarning: colours.bracken,
    colorError: colours.rowan,
    colorText: colours.ink,
    colorTextSecondary: colours.quiet,
    colorBorder: colours.hairline,
    colorBorderSecondary: colours.hairline,
    colorBgBase: colours.raised,
    colorBgLayout: colours.paper,
    colorLink: colours.loch,
    fontFamily: "var(--sans)",
    fontSize: 14,
    borderRadius: 6,
    controlHeight: 28,
    boxShadow: "0 1px 0 rgba(35,38,31,.05)",
    boxShadowSecondary: "0 2px 10px rgba(35,38,31,.12)",
    wireframe: false,
    // Menus and dialogs do not move: motion is kept for what explains something.
    motion: false,
  },
};
